/** Cards as text on the clipboard, so that they go between graphs, tabs and messages. */
import { isTyping } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

const FORMAT = "velvet-moth-cards";

/**
 * @param {GraphPane} pane
 * @returns {string} empty where nothing is selected
 */
function cardsText(pane) {
  const chosen = pane.selection;
  if (!chosen.size) return "";
  const { nodes, parameters, marks, version } = pane.model.state.document;
  const frames = marks.filter((mark) => mark.kind === "frame" && mark.nodes.every((id) => chosen.has(id)));
  return JSON.stringify({
    format: FORMAT,
    version,
    graph: pane.model.state.id,
    nodes: nodes.filter((node) => chosen.has(node.id)),
    parameters: parameters.filter((parameter) => chosen.has(parameter.node)),
    marks: frames,
  });
}

/** @param {GraphPane} pane */
export function listenForClipboard(pane) {
  /** @param {ClipboardEvent} event */
  const copy = (event) => {
    const text = isElsewhere(event) ? "" : cardsText(pane);
    if (!text) return false;
    event.clipboardData?.setData("text/plain", text);
    event.preventDefault();
    return true;
  };
  document.addEventListener("copy", (event) => {
    const count = pane.selection.size;
    if (copy(event)) notice(`Copied ${count} card${count === 1 ? "" : "s"} as text.`);
  });
  document.addEventListener("cut", (event) => {
    const nodes = [...pane.selection];
    if (copy(event)) void pane.model.edit({ op: "remove_nodes", nodes });
  });
  document.addEventListener("paste", (event) => {
    const text = event.clipboardData?.getData("text/plain") ?? "";
    if (isElsewhere(event) || !text) return;
    event.preventDefault();
    let from = 0;
    try {
      from = JSON.parse(text).graph;
    } catch {
      // The server says what is wrong with the text.
    }
    void pane.model.craft({ craft: "paste", text, keep_wires: from === pane.model.state.id });
  });
}

/**
 * Whether the clipboard belongs to a field, or to text that somebody has marked.
 * @param {ClipboardEvent} event
 */
const isElsewhere = (event) =>
  isTyping(event) || !!document.querySelector("dialog[open]") || !!document.getSelection()?.toString();
