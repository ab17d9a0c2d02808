/** Columns: each card in the column of its depth, ordered so that few wires cross. */
import { Graph, layout as dagreLayout } from "dagre";

export const CARD_WIDTH = 140;
export const GAP = 28;
const BETWEEN = 14;

/** @typedef {{ id: string, height: number, place?: [number, number], sources: string[] }} Box */

/**
 * @param {Box[]} boxes the dock is not among them
 * @param {string[]} docked the nodes wired to the dock, from its top to its bottom
 * @returns {Map<string, [number, number]>} the top left corner of each card
 */
export function columns(boxes, docked) {
  const graph = new Graph();
  graph.setGraph({ rankdir: "LR", nodesep: BETWEEN, ranksep: GAP, ranker: "network-simplex" });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const box of boxes) graph.setNode(box.id, { width: CARD_WIDTH, height: box.height });
  const known = new Set(boxes.map((b) => b.id));
  for (const box of boxes) {
    for (const source of box.sources) if (known.has(source)) graph.setEdge(source, box.id, {});
  }
  if (docked.length) {
    graph.setNode("dock", { width: 1, height: 40 });
    for (const source of docked) if (known.has(source)) graph.setEdge(source, "dock", {});
  }
  dagreLayout(graph);
  /** @type {Map<string, [number, number]>} */
  const places = new Map();
  for (const box of boxes) {
    const laid = graph.node(box.id);
    const auto = /** @type {[number, number]} */ ([laid.x - CARD_WIDTH / 2, laid.y - box.height / 2]);
    places.set(box.id, box.place ?? auto);
  }
  return places;
}
