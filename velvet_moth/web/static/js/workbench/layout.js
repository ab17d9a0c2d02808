/** Columns: each card in the column of its depth, ordered so that few wires cross. Runs in the layout worker. */

export const CARD_WIDTH = 140;
export const GAP = 28;
const BETWEEN = 14;
/** A wire over more columns than this says little about where its card should lie, and costs most of the time. */
const LONG = 3;
/** Up to so many cards every wire has its say. */
const FEW = 300;

/** @typedef {{ id: string, height: number, place?: [number, number], sources: string[] }} Box */
/** @typedef {[number, number]} Point */

/**
 * How many columns before the end each card could stand at the latest.
 * @param {Box[]} boxes
 * @returns {Map<string, number>}
 */
function heights(boxes) {
  /** @type {Map<string, string[]>} */
  const readers = new Map(boxes.map((box) => [box.id, []]));
  for (const box of boxes) for (const source of box.sources) readers.get(source)?.push(box.id);
  /** @type {Map<string, number>} */
  const found = new Map();
  for (const { id: start } of boxes) {
    const todo = [start];
    while (todo.length) {
      const id = todo[todo.length - 1];
      const open = (readers.get(id) ?? []).filter((reader) => !found.has(reader));
      if (open.length) todo.push(...open);
      else {
        todo.pop();
        found.set(id, Math.max(-1, ...(readers.get(id) ?? []).map((r) => found.get(r) ?? 0)) + 1);
      }
    }
  }
  return found;
}

/**
 * @param {typeof import("dagre")} dagre
 * @param {Box[]} boxes the dock is not among them
 * @param {string[]} docked the nodes wired to the dock, from its top to its bottom
 * @returns {Map<string, Point>} the top left corner of each card
 */
export function columns(dagre, boxes, docked) {
  const graph = new dagre.Graph();
  graph.setGraph({ rankdir: "LR", nodesep: BETWEEN, ranksep: GAP, ranker: "network-simplex" });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const box of boxes) graph.setNode(box.id, { width: CARD_WIDTH, height: box.height });
  const high = heights(boxes);
  /** The farthest-left reader of each card keeps it in order, however far off. @type {Map<string, number>} */
  const first = new Map();
  for (const box of boxes) {
    for (const source of box.sources) {
      first.set(source, Math.max(first.get(source) ?? -1, high.get(box.id) ?? 0));
    }
  }
  for (const box of boxes) {
    const at = high.get(box.id) ?? 0;
    for (const source of box.sources) {
      const from = high.get(source);
      if (from !== undefined && (boxes.length <= FEW || from - at <= LONG || at === first.get(source)))
        graph.setEdge(source, box.id, {});
    }
  }
  if (docked.length) {
    graph.setNode("dock", { width: 1, height: 40 });
    for (const source of docked) if (high.has(source)) graph.setEdge(source, "dock", {});
  }
  dagre.layout(graph);
  /** @type {Map<string, Point>} */
  const places = new Map();
  for (const box of boxes) {
    const laid = graph.node(box.id);
    places.set(box.id, box.place ?? [laid.x - CARD_WIDTH / 2, laid.y - box.height / 2]);
  }
  return places;
}
