/** What hands do on the graph pane, by pointer, wheel and keyboard, and where each is answered. */
import { openMenu } from "moth/workbench/gestures/pane_menu.js";
import { pressKey } from "moth/workbench/gestures/pane_keys.js";
import { pressPane } from "moth/workbench/gestures/pane_pointer.js";
import { wireWords } from "moth/workbench/shared/wire_words.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

/**
 * @param {GraphPane} pane
 * @param {import("./commands.js").Panels} panels
 */
export function listenForGestures(pane, panels) {
  const { pane: element } = pane;
  element.addEventListener("pointerdown", (/** @type {PointerEvent} */ event) => pressPane(pane, event));
  element.addEventListener("pointermove", (/** @type {PointerEvent} */ event) => (pane.pointer = event));
  element.addEventListener("pointerleave", () => (pane.pointer = null));
  element.addEventListener("pointerover", (/** @type {PointerEvent} */ event) => describeWire(pane, event));
  element.addEventListener("wheel", (/** @type {WheelEvent} */ event) => turnWheel(pane, event), { passive: false });
  element.addEventListener("keydown", (/** @type {KeyboardEvent} */ event) => pressKey(pane, panels, event));
  element.addEventListener("contextmenu", (/** @type {MouseEvent} */ event) => openMenu(pane, panels, event));
}

/**
 * @param {GraphPane} pane
 * @param {WheelEvent} event
 */
function turnWheel({ pane, view }, event) {
  // What stands over the pane scrolls by itself.
  if (/** @type {Element} */ (event.target).closest(".side-panel, .slip, #comparison, #problems")) return;
  event.preventDefault();
  if (event.shiftKey) return view.set({ x: view.x - (event.deltaY || event.deltaX) });
  const box = pane.getBoundingClientRect();
  view.zoomBy(Math.exp(-event.deltaY * 0.0012), event.clientX - box.left, event.clientY - box.top);
}

/**
 * A wire says what it carries when the pointer rests on it.
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
function describeWire({ model }, event) {
  const wire = /** @type {SVGElement | null} */ (/** @type {Element} */ (event.target).closest(".wire"));
  const [node, input] = (wire?.dataset.end ?? "").split(".");
  const title = wire?.querySelector("title");
  if (!title || !model.nodes.get(node)?.wires?.[input]) return;
  const { ends, flows, range } = wireWords(model, node, input);
  title.textContent = `${ends}\n${flows}${range ? `, ${range}` : ""}`;
}
