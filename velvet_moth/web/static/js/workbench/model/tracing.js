/** What a card depends on, and what depends on it. */

/**
 * All that a card reads, however far, and all that reads it.
 * @param {import("./model.js").GraphModel} model
 * @param {Iterable<string>} start
 * @returns {Set<string>}
 */
export function traced(model, start) {
  /** @type {Map<string, string[]>} */
  const readers = new Map();
  for (const [id, node] of model.nodes) {
    for (const [source] of Object.values(node.wires ?? {})) readers.set(source, [...(readers.get(source) ?? []), id]);
  }
  const sources = (/** @type {string} */ id) => Object.values(model.nodes.get(id)?.wires ?? {}).map(([s]) => s);
  const found = new Set(start);
  for (const next of [sources, (/** @type {string} */ id) => readers.get(id) ?? []]) {
    const todo = [...start];
    const seen = new Set(todo);
    while (todo.length) {
      for (const id of next(/** @type {string} */ (todo.pop()))) {
        if (seen.has(id)) continue;
        seen.add(id);
        found.add(id);
        todo.push(id);
      }
    }
  }
  return found;
}
