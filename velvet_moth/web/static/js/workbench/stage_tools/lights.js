/** The graph under other rigs than its own, to be looked at beside it. */
import { byId } from "moth/base/dom.js";
import { shaderOf, shaderValues } from "moth/workbench/model/shader_values.js";

/** Every rig there is. @returns {{ id: string, name: string }[]} */
export const everyRig = () =>
  [.../** @type {HTMLSelectElement} */ (byId("rig")).options].map(({ value, text }) => ({ id: value, name: text }));

/**
 * What the stage shows, under a rig as it first stands; null where its shader cannot be built.
 * @param {import("../model/model.js").GraphModel} model
 * @param {import("../../stage/stage.js").Stage} stage
 * @param {string} rig
 * @returns {Promise<import("../../stage/stage.js").Shown | null>}
 */
export async function litBy(model, stage, rig) {
  const light = await stage.lighting.prepare(rig);
  const lamps = (/** @type {string} */ key) => model.settings.rigs[key].lamps.length;
  // Lamps that a rig has not are dark, so only more of them need another shader.
  const isEnough = lamps(rig) <= lamps(model.state.document.rig);
  if (isEnough || model.shown) return { values: null, built: null, light };
  const shader = await shaderOf(model, model.variant, rig);
  const built = await stage.prepare(shader);
  return built && { values: shaderValues(model, model.variant, shader), built, light };
}
