/** A graph as a text in an engine's language, with its colours and lines, and what an engine binds. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";
import { newest } from "moth/base/rooms.js";
import { changes, remember } from "moth/export_room/changes.js";
import { asCommand, asked, counted, form, graph, refuse } from "moth/export_room/choices.js";
import { copies, showLines } from "moth/export_room/lines.js";

/** What shapes the text, and with it what the package holds. */
const SHAPING = ["language", "shape", "prefix", "variant", "switches", "entry", "reduced", "packed"];
const PACKED = [...SHAPING, "textures", "most", "names", "mesh"];
/** The text that is shown. */
let shown = "";

/** Comments, numbers and words of a line. */
const PARTS =
  /(\/\/.*$)|(\b\d+\.?\d*(?:e[+-]?\d+)?u?\b)|(\b(?:float[234]?|vec[234]f?|f32|bool|void|struct|static|return|const|let|var|fn|in|out|uniform|layout|Texture2D|SamplerState|sampler2D)\b)/g;

const load = newest(
  () => getJson(`/api/graphs/${graph}/text?${asked(SHAPING)}`),
  (/** @type {import("../types.d.ts").ExportText} */ found) => {
    shown = found.text;
    const lines = showLines(byId("text"), shown, PARTS);
    byId("text-head").textContent = `${found.file} · ${counted(lines, "line")}`;
    showChanges();
    followNodes(found);
    byId("bound").replaceChildren(
      h("li", {}, `${counted(found.values, "value")} in ${counted(found.floats * 4, "byte")}`),
      h("li", {}, counted(found.textures, "texture")),
      found.switches ? h("li", {}, counted(found.switches, "switch", "switches")) : "",
      h("li", {}, `about ${counted(found.operations, "operation")} a pixel`),
    );
    byId("proof").textContent = found.proof;
    byId("words").replaceChildren(...found.words.map((words) => h("li", {}, words.trim())));
    refuse("");
  },
);

/** The lines of each node. @type {Map<string, HTMLElement[]>} */
let lines = new Map();

/** @param {string} node whose lines are pointed out; empty for none */
function point(node) {
  for (const [id, own] of lines) for (const line of own) line.classList.toggle("pointed", id === node);
}

/** Lines lead to the nodes that they hold, and a list of nodes to their lines. @param {import("../types.d.ts").ExportText} found */
function followNodes({ nodes, names }) {
  lines = new Map();
  for (const [number, ids] of Object.entries(nodes)) {
    const line = /** @type {HTMLElement} */ (byId("text").children[Number(number) - 1]);
    const [first] = ids;
    line.dataset.node = first;
    line.tabIndex = 0;
    line.title = `${ids.map((id) => names[id]).join(", ")}: press to see it in the graph`;
    for (const id of ids) lines.set(id, [...(lines.get(id) ?? []), line]);
  }
  const list = byId("node-lines");
  const before = list.value;
  const options = [...lines.keys()].map((id) => ({ id, name: names[id] }));
  options.sort((a, b) => a.name.localeCompare(b.name));
  list.replaceChildren(
    h("option", { value: "" }, "Lines of a node"),
    ...options.map(({ id, name }) => h("option", { value: id }, name)),
  );
  list.value = lines.has(before) ? before : "";
  point(list.value);
  // Who comes from a card sees its lines.
  const asked = location.hash.slice(1);
  if (!asked || cameFor === asked) return;
  cameFor = asked;
  if (lines.has(asked)) seeLines(asked);
  else notice("That node has no line of its own: it is a part of others, or nothing reads it.");
}

/** The node that the page was last opened for. */
let cameFor = "";

/** @param {string} node */
function seeLines(node) {
  byId("node-lines").value = node;
  point(node);
  lines.get(node)?.[0].scrollIntoView({ block: "center" });
}

byId("node-lines").addEventListener("change", () => seeLines(byId("node-lines").value));
/** The node of the line that something happens at. @param {Event} event */
const nodeAt = ({ target }) => /** @type {HTMLElement} */ (target).closest("li")?.dataset.node ?? "";
const pointAt = (/** @type {Event} */ event) => point(nodeAt(event) || byId("node-lines").value);
const leave = () => point(byId("node-lines").value);
const goTo = (/** @type {Event} */ event) => {
  const node = nodeAt(event);
  // A press that ends a choice of text leads nowhere.
  if (node && !getSelection()?.toString()) location.assign(`/graphs/${graph}#${node}`);
};
const text = /** @type {HTMLElement} */ (byId("text"));
text.addEventListener("pointerover", pointAt);
text.addEventListener("focusin", pointAt);
text.addEventListener("pointerleave", leave);
text.addEventListener("click", goTo);
text.addEventListener("keydown", (event) => event.key === "Enter" && goTo(event));

/** What of the text depends on the choices, as the name that it is kept by. */
const nameNow = () => `${graph} ${asked(SHAPING)}`;

/** Marks the lines that are new since the text last left. */
function showChanges() {
  const found = changes(nameNow(), shown);
  const words = byId("text-changes");
  words.hidden = !found;
  if (!found) return;
  const when = found.when.toLocaleString([], { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  words.textContent =
    found.lines.length || found.gone
      ? `${counted(found.lines.length, "line")} new and ${found.gone} gone since ${when}`
      : `the same as on ${when}`;
  for (const at of found.lines) byId("text").children[at]?.classList.add("changed");
}

/** The text has left. */
export function leaves() {
  remember(nameNow(), shown);
  showChanges();
}
byId("copy").addEventListener("click", leaves);

/** Shows what is chosen. */
export function follow() {
  const language = /** @type {HTMLSelectElement} */ (form.elements.namedItem("language"));
  const reduced = /** @type {HTMLInputElement} */ (form.elements.namedItem("reduced"));
  reduced.disabled = language.selectedOptions[0].dataset.reduced === undefined;
  const packed = asked(PACKED);
  byId("package").setAttribute("href", `/api/graphs/${graph}/package.zip?${packed}`);
  asCommand(
    "out/",
    [...packed].map(([key, value]) => (value === "yes" ? [key, ""] : [key, value])),
  );
  return load();
}

copies(byId("copy"), () => shown);
