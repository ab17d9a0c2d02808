/** The card of a wire that was pressed: what flows, from where to where, and what can be done with it. */
import { popover } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { partField, wireWords } from "moth/workbench/shared/wire_words.js";

/**
 * @typedef {object} Pane what the card asks of the pane
 * @property {import("../../model/model.js").GraphModel} model
 * @property {(node: string, input: string) => void} addInto
 * @property {(id: string) => void} focus
 */

/**
 * @param {Pane} pane
 * @param {string} node
 * @param {string} input
 * @param {number} x
 * @param {number} y
 */
export function showWire(pane, node, input, x, y) {
  const { model } = pane;
  const { ends, flows, range } = wireWords(model, node, input);
  const [source] = model.nodes.get(node)?.wires?.[input] ?? [""];
  /** @param {() => void} act */
  const closing = (act) => () => {
    panel.remove();
    act();
  };
  const part = partField(model, node, input);
  /** @type {(words: string, act: () => void) => HTMLElement} */
  const button = (words, act) => h("button", { type: "button", class: "button small", onclick: closing(act) }, words);
  const panel = h(
    "div",
    { class: "wire-card", role: "dialog", "aria-label": `Wire: ${ends}` },
    h("p", {}, h("strong", {}, ends)),
    h("p", { class: "quiet" }, flows, range ? h("span", { class: "mono" }, ` · ${range}`) : ""),
    part ? h("label", { class: "setting" }, h("span", {}, "Takes"), part) : null,
    h(
      "div",
      { class: "looks" },
      button("Put a node in", () => pane.addInto(node, input)),
      button("Unwire", () => void model.edit({ op: "unwire", node, input })),
      button("To its source", () => pane.focus(source)),
      node === "dock" ? null : button("To its end", () => pane.focus(node)),
    ),
  );
  const anchor = h("span", { class: "pointer-anchor" });
  anchor.style.left = `${x}px`;
  anchor.style.top = `${y}px`;
  document.body.append(anchor);
  popover(anchor, panel);
  anchor.remove();
  part?.addEventListener("change", () => panel.remove());
  panel.querySelector("button")?.focus();
}
