/** What of a graph's values goes to its shader, and what of them makes another shader. */
import { getJson } from "moth/base/api.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").ShaderState} ShaderState */
/** @typedef {ShaderState["slots"][number]} Slot node, input, offset and width */

/**
 * A shader's values for a variant.
 * @param {GraphModel} model
 * @param {string} [variant]
 * @param {ShaderState} [shader]
 * @param {GraphModel} [inner] the motif whose values stand in the shader under ``motif/node``
 * @returns {Float32Array}
 */
export function shaderValues(model, variant = model.variant, shader = model.state.shader, inner = model) {
  const packed = new Float32Array(shader.floats);
  for (const slot of shader.slots) {
    const [motif, within] = slot[0].split("/");
    put(packed, slot, within ? part(inner, within, slot[1], "") : part(model, motif, slot[1], variant));
  }
  return packed;
}

/**
 * Writes a value, which may be narrower, where it goes.
 * @param {Float32Array} packed
 * @param {Slot} slot
 * @param {number[]} value
 */
function put(packed, [, , offset, width], value) {
  for (let i = 0; i < width; i += 1) packed[offset + i] = value[i] ?? value[0] ?? 0;
}

/**
 * Where the keyed values of the current variant go in a shader: for each target, its input and the places of its parts.
 * @typedef {{ target: string, end: string, places: { slot: Slot, from: number, to: number | undefined }[] }} KeyedPlace
 */

/**
 * @param {GraphModel} model
 * @param {ShaderState} shader
 * @returns {KeyedPlace[]}
 */
export function keyedPlaces(model, shader) {
  const targets = new Set(model.keys.targets());
  const opened = model.state.document.parameters.filter(({ id }) => targets.has(id));
  return opened.map(({ id, node, input }) => {
    const slots = shader.slots.filter(([of, key]) => of === node && key.split("#")[0] === input);
    const width = model.settings.stops[model.port(node, input).type] ?? 0;
    const places = slots.map((slot) => {
      const [, stop] = slot[1].split("#");
      const from = Number(stop ?? 0) * width;
      return { slot, from, to: stop === undefined ? undefined : from + width };
    });
    return { target: id, end: `${node}.${input}`, places };
  });
}

/**
 * The values of a shader at the moment that is shown.
 * @param {GraphModel} model
 * @param {KeyedPlace[]} keyed
 * @param {Float32Array} values those of another moment, which stay
 */
export function valuesNow(model, keyed, values) {
  const packed = values.slice();
  for (const { target, end, places } of keyed) {
    const value = model.live.get(end) ?? model.keys.now(target);
    if (!Array.isArray(value)) continue;
    for (const { slot, from, to } of places) put(packed, slot, to === undefined ? value : value.slice(from, to));
  }
  return packed;
}

/**
 * A value, or one stop of a list: ``input#2`` is its third.
 * @param {GraphModel} model
 * @param {string} node
 * @param {string} input
 * @param {string} variant
 * @returns {number[]}
 */
function part(model, node, input, variant) {
  const [key, index] = input.split("#");
  const value = /** @type {number[]} */ (model.value(node, key, variant));
  if (index === undefined) return value;
  const width = model.settings.stops[model.port(node, key).type];
  return value.slice(Number(index) * width, (Number(index) + 1) * width);
}

/**
 * What of a variant makes another shader or other textures, as text: toggles, stops, textures.
 * @param {GraphModel} model
 * @param {string} variant
 */
export function shape(model, variant) {
  const shaping = model.state.document.parameters.filter(({ node, input }) => model.port(node, input).reshapes);
  return JSON.stringify(
    shaping.map(({ id, node, input }) => {
      const value = model.value(node, input, variant);
      // A keyed toggle is a value of one and the same shader.
      if (model.keys.stateOf(id, variant)?.in_steps && Array.isArray(value)) return "keyed";
      return Array.isArray(value) && value.length > 1 ? value.length : value;
    }),
  );
}

/**
 * The shader of a variant, which differs from that of the current one.
 * @param {GraphModel} model
 * @param {string} variant
 * @param {string} [rig] another one than the graph's
 * @returns {Promise<ShaderState>}
 */
export const shaderOf = (model, variant, rig = "") =>
  getJson(`${model.url}/shader?${new URLSearchParams({ variant, rig, time: String(model.keys.time) })}`);
