/** Brings an answer that holds only what differs together with the state before it. */

/** @typedef {import("../../types.d.ts").GraphState} GraphState */

const TABLES = /** @type {const} */ (["types", "input_types", "rates", "kinds", "problems", "swatches", "names"]);

/**
 * The state as it is now, and the nodes whose cards may look different; null where that may be any.
 * @param {GraphState | null} before taken over: it is no longer to be used
 * @param {GraphState} answer
 * @returns {Set<string> | null}
 */
export function mergeInto(answer, before) {
  if (before && answer.shader.hash === before.shader.hash && !answer.shader.fragment) {
    answer.shader.fragment = before.shader.fragment;
    answer.shader.vertex = before.shader.vertex;
  }
  if (!before || !answer.gone) return null;
  /** @type {Set<string>} */
  const touched = new Set();
  for (const name of TABLES) {
    for (const key of answer.gone[name]) delete before[name][key];
    for (const key of [...answer.gone[name], ...Object.keys(answer[name])]) touched.add(key.split(".", 1)[0]);
    answer[name] = /** @type {any} */ (Object.assign(before[name], answer[name]));
  }
  const nodes = new Map(before.document.nodes.map((node) => [node.id, node]));
  const named = new Set([...answer.gone.nodes, ...answer.document.nodes.map((node) => node.id)]);
  for (const id of answer.gone.nodes) nodes.delete(id);
  for (const node of answer.document.nodes) nodes.set(node.id, node);
  answer.document.nodes = [...nodes.values()].sort((a, b) => (a.id < b.id ? -1 : 1));
  for (const { id, wires } of answer.document.nodes) {
    // A card names the cards it reads.
    if (Object.values(wires ?? {}).some(([source]) => named.has(source))) named.add(id);
  }
  if (JSON.stringify(before.textures) !== JSON.stringify(answer.textures)) return null;
  // What is folded away decides where wires end.
  if (JSON.stringify(before.document.marks) !== JSON.stringify(answer.document.marks)) return null;
  const opened = differing(before.document.parameters, answer.document.parameters, (p) => p.id);
  if (JSON.stringify(before.document.variants) !== JSON.stringify(answer.document.variants)) {
    opened.push(...answer.document.parameters);
  }
  const shown = [before.shown, answer.shown].map((output) => output.split(".", 1)[0]);
  for (const id of [...named, ...shown, ...opened.map((parameter) => parameter.node)]) touched.add(id);
  return touched;
}

/**
 * What is in one list only, or not the same in both.
 * @template Entry
 * @param {Entry[]} before
 * @param {Entry[]} after
 * @param {(entry: Entry) => string} keyOf
 */
function differing(before, after, keyOf) {
  const texts = [before, after].map((list) => new Map(list.map((entry) => [keyOf(entry), JSON.stringify(entry)])));
  return [...before, ...after].filter((entry) => texts[0].get(keyOf(entry)) !== texts[1].get(keyOf(entry)));
}
