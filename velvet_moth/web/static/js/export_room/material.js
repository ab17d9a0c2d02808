/** A graph as a document of MaterialX, and what that cannot say. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { newest } from "moth/base/rooms.js";
import { asCommand, asked, counted, graph } from "moth/export_room/choices.js";
import { copies, showLines } from "moth/export_room/lines.js";

/** Comments, numbers in quotes, and names of nodes. */
const PARTS = /(<!--.*?-->)|("-?\d[^"]*")|(<\/?\w+)/g;
/** The text that is shown. */
let shown = "";

const load = newest(
  () => getJson(`/api/graphs/${graph}/material?${asked(["variant", "textures"])}`),
  (/** @type {import("../types.d.ts").MaterialText} */ found) => {
    shown = found.text;
    const lines = showLines(byId("material-text"), shown, PARTS);
    byId("material-head").textContent =
      `${found.file} · ${counted(lines, "line")} · ${counted(found.nodes, "node")} of the standard`;
    const words = found.words.length ? found.words : ["Everything of the graph is in it."];
    byId("unsaid").replaceChildren(...words.map((one) => h("li", {}, one)));
  },
);

/** Shows what is chosen. */
export function follow() {
  const packed = asked(["variant", "textures"]);
  byId("material-package").setAttribute("href", `/api/graphs/${graph}/material.zip?${packed}`);
  asCommand("out/", [["as", "material"], ...packed]);
  return load();
}

copies(byId("copy-material"), () => shown);
