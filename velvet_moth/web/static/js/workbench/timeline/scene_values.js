/** What the parts of the scene that take keys are at the moment, as the stage has them. */
import { viewOf } from "moth/stage/eye.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../stage/stage.js").Stage} Stage */
/** @typedef {import("../../types.d.ts").Decal} Decal */

/** @type {Record<string, (decal: Decal) => number[]>} */
const OF_DECAL = {
  place: (decal) => decal.place,
  turn: (decal) => [decal.turn, decal.tilt, decal.roll],
  size: (decal) => decal.size,
  index: (decal) => [decal.index],
  tint: (decal) => decal.tint,
};

/**
 * @param {GraphModel} model
 * @param {Stage} stage
 * @param {string} target
 * @returns {number[]}
 */
export function sceneValue(model, stage, target) {
  if (target === "scene/light") return [stage.lighting.angles.turn, stage.lighting.angles.tilt];
  if (target === "scene/eye") {
    const { turn, tilt, distance, field, target_x: x, target_y: y, target_z: z } = viewOf(stage);
    return [turn, tilt, distance, field, x, y, z].map(Number);
  }
  const now = model.keys.now(target);
  if (Array.isArray(now)) return now;
  const [where, id, part] = target.split("/");
  const decal = where === "decal" && model.state.decals.find((one) => one.id === id);
  return decal ? OF_DECAL[part](decal) : [1];
}

/**
 * Every part of the scene that can be keyed here, with its name.
 * @param {GraphModel} model
 * @param {Stage} stage
 * @returns {[string, string][]}
 */
export function sceneTargets(model, stage) {
  const { scene_targets: targets, decal_parts: parts } = model.settings;
  const lamps = stage.lighting.lamps.length;
  const isThere = (/** @type {string} */ target) =>
    !target.startsWith("scene/lamp_") || Number(target.slice(11)) <= lamps;
  const ofScene = Object.entries(targets)
    .filter(([target]) => isThere(target))
    .map(([target, { name }]) => /** @type {[string, string]} */ ([target, name]));
  const decals = model.state.shader.projected ? model.state.decals : [];
  const ofDecals = decals.flatMap(({ id }, at) =>
    id
      ? Object.entries(parts).map(
          ([part, { name }]) => /** @type {[string, string]} */ ([`decal/${id}/${part}`, `Decal ${at + 1}, ${name}`]),
        )
      : [],
  );
  return [...ofScene, ...ofDecals];
}
