/** Editing a motif in its place: the way in and out, and the stage of the graph it is used in. */
import { notice } from "moth/base/notices.js";

/** The graphs that the way in led through, the outermost first. */
const way = new URLSearchParams(location.search).get("within")?.split(",").filter(Boolean) ?? [];

/** The graph whose surface is on the stage; empty where that is this very graph. */
export const outermost = way[0] ?? "";

/**
 * The page of a motif, entered from a graph.
 * @param {string} type of its uses
 * @param {number} from the graph it is entered from
 */
export const addressInside = (type, from) => `/motifs/${type}?within=${[...way, from].join(",")}`;

/** @param {{ model: import("../model/model.js").GraphModel, selection: Set<string> }} pane */
export function enter({ model, selection }) {
  const [id] = selection;
  const type = (id && model.nodes.get(id)?.type) ?? "";
  if (type.startsWith("motif_")) location.assign(addressInside(type, model.state.id));
  else notice("Select a card that is a motif, then press I to go into it.");
}

export function leave() {
  const outer = way.at(-1);
  if (!outer) return void notice("This graph was not entered from another. The library lists them all.");
  const rest = way.slice(0, -1).join(",");
  location.assign(`/graphs/${outer}${rest ? `?within=${rest}` : ""}`);
}
