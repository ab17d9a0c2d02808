/** How well values flow into inputs: 3 as they are, 2 widened, 1 a part of them, 0 not at all. */

/** @typedef {import("../../types.d.ts").PageSettings} PageSettings */
/** @typedef {import("../../types.d.ts").NodeType} NodeType */

/**
 * How well a value flows into an input.
 * @param {PageSettings} settings
 * @param {string} given
 * @param {string} taken
 */
export function rank({ fits }, given, taken) {
  return fits[given]?.[taken] ?? 0;
}

/**
 * How well the best input of a kind of node takes a value.
 * @param {PageSettings} settings
 * @param {NodeType} type
 * @param {string} given
 */
export const inputRank = (settings, type, given) =>
  Math.max(0, ...type.inputs.filter((p) => p.wirable).map((p) => rank(settings, given, p.type)));

/**
 * How well the best output of a kind of node fits an input.
 * @param {PageSettings} settings
 * @param {NodeType} type
 * @param {string} taken
 */
export const outputRank = (settings, type, taken) =>
  Math.max(0, ...type.outputs.map((o) => rank(settings, o.type === "flexible" ? "number" : o.type, taken)));
