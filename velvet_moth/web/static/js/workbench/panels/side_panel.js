/** Panels beside the graph: one at a time, closed by Escape; the keyboard is theirs, save for undo and redo. */
import { h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";

/** @typedef {{ pane: HTMLElement }} Pane */

/**
 * @param {Pane} pane
 * @param {{ id: string, name: string, title: string, tools?: HTMLElement[], toggle: () => void }} options
 * @param {...any} children
 */
export function sidePanel(pane, { id, name, title, tools = [], toggle }, ...children) {
  const close = h(
    "button",
    { type: "button", class: "button small", "aria-label": `Close ${name.toLowerCase()}`, onclick: toggle },
    "×",
  );
  const panel = h(
    "aside",
    { id, class: "over-pane side-panel", "aria-label": name, hidden: true },
    h("header", {}, h("h2", { class: "eyebrow" }, title), ...tools, close),
    ...children,
  );
  panel.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey) return;
    event.stopPropagation();
    if (event.key === "Escape") toggle();
  });
  pane.pane.append(panel);
  return panel;
}

/**
 * Opens a panel in place of any other, or closes it.
 * @param {Pane} pane
 * @param {HTMLElement} panel
 * @param {() => void} close what Escape does while it is on top
 * @returns {boolean} whether it is open now
 */
export function togglePanel(pane, panel, close) {
  const isOpen = !!panel.hidden;
  const panels = /** @type {NodeListOf<HTMLElement>} */ (pane.pane.querySelectorAll(".side-panel"));
  for (const other of panels) other.hidden = true;
  panel.hidden = !isOpen;
  if (isOpen) opened(() => !panel.hidden, close);
  pane.pane.classList.toggle("beside-panel", isOpen);
  pane.pane.dispatchEvent(new Event("panels"));
  if (!isOpen) pane.pane.focus({ preventScroll: true });
  return isOpen;
}
