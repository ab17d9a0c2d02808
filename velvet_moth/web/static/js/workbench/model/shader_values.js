/** What of a graph's values goes to its shader, and what of them makes another shader. */
import { getJson } from "moth/base/api.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").ShaderState} ShaderState */

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
  for (const [node, input, offset, width] of shader.slots) {
    const [motif, within] = node.split("/");
    const value = within ? part(inner, within, input, "") : part(model, motif, input, variant);
    for (let i = 0; i < width; i += 1) packed[offset + i] = value[i] ?? value[0] ?? 0;
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
    shaping.map(({ node, input }) => {
      const value = model.value(node, input, variant);
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
  getJson(`${model.url}/shader?${new URLSearchParams({ variant, rig })}`);
