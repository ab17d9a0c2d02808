/** What a card depends on, and what depends on it. */

/**
 * Who reads each card.
 * @param {import("./model.js").GraphModel} model
 * @returns {Map<string, string[]>}
 */
function readersIn(model) {
  /** @type {Map<string, string[]>} */
  const readers = new Map();
  for (const [id, node] of model.nodes) {
    for (const [source] of Object.values(node.wires ?? {})) readers.set(source, [...(readers.get(source) ?? []), id]);
  }
  return readers;
}

/**
 * Some cards and all that feeds them and nothing else.
 * @param {import("./model.js").GraphModel} model
 * @param {Iterable<string>} start
 * @returns {Set<string>}
 */
export function branchOf(model, start) {
  const readers = readersIn(model);
  const found = new Set(start);
  // A card joins once all that read it have.
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const id of [...found])
      for (const [source] of Object.values(model.nodes.get(id)?.wires ?? {}))
        if ((readers.get(source) ?? []).every((reader) => found.has(reader))) found.add(source);
  }
  return found;
}

/**
 * All that a card reads, however far, and all that reads it.
 * @param {import("./model.js").GraphModel} model
 * @param {Iterable<string>} start
 * @returns {Set<string>}
 */
export function traced(model, start) {
  const readers = readersIn(model);
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
