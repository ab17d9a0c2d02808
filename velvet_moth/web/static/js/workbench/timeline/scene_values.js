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
  strength: (decal) => [decal.strength],
  numbers: (decal) => decal.numbers,
};

/** Straight up and down an eye has no side. */
const STEEPEST = 89.9;

/** The same angle, as near as can be to another: a turn past north goes on. @param {number} turn @param {number} other */
const near = (turn, other) => turn + 360 * Math.round((other - turn) / 360);

/** @param {number} tilt */
const tilted = (tilt) => Math.min(STEEPEST, Math.max(-STEEPEST, tilt));

/**
 * @param {GraphModel} model
 * @param {Stage} stage
 * @param {string} target
 * @returns {number[]}
 */
export function sceneValue(model, stage, target) {
  const now = model.keys.now(target);
  const before = Array.isArray(now) ? now : null;
  if (target === "scene/light") {
    const { turn, tilt } = stage.lighting.angles;
    return [near(turn, before?.[0] ?? turn), tilted(tilt)];
  }
  if (target === "scene/eye") {
    const seen = viewOf(stage);
    const turn = Number(seen.turn);
    const rest = [seen.distance, seen.field, seen.target_x, seen.target_y, seen.target_z].map(Number);
    return [near(turn, before?.[0] ?? turn), tilted(Number(seen.tilt)), ...rest];
  }
  if (before) return before;
  if (target === "scene/emitter") {
    const { place, turn, tilt } = model.state.document.emitter;
    return [...place, turn, tilt, 1];
  }
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
    target === "scene/emitter"
      ? model.state.emitter !== null
      : !target.startsWith("scene/lamp_") || Number(target.slice(11)) <= lamps;
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
