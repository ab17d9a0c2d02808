/** The keyboard on the graph pane: commands, and going from card to card. */
import { isTyping } from "moth/base/dom.js";
import { closeTop } from "moth/base/layers.js";
import { commandOf } from "moth/workbench/gestures/commands.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

/**
 * @param {GraphPane} pane
 * @param {import("./commands.js").Panels} panels
 * @param {KeyboardEvent} event
 */
export function pressKey(pane, panels, event) {
  const target = /** @type {HTMLElement} */ (event.target);
  const card = target.closest(".card");
  if (event.key === "Escape" && card instanceof HTMLElement && card !== target) {
    event.preventDefault();
    return card.focus({ preventScroll: true });
  }
  if (isTyping(event)) return;
  const onButton = target instanceof HTMLButtonElement && (event.key === " " || event.key === "Enter");
  const command = commandOf(event);
  if (onButton) return;
  if (command) command.run(pane, panels);
  else if (event.key.startsWith("Arrow") && !event.altKey) pressArrow(pane, event);
  else if (event.ctrlKey || event.metaKey || event.altKey) return;
  else if (event.key === "Escape") closeTop() || pane.select([]);
  else if (event.key === "Enter") openSlip(pane);
  else return;
  event.preventDefault();
}

/**
 * Opens the slip of the one card that is selected, and goes into it.
 * @param {GraphPane} pane
 */
function openSlip(pane) {
  const [id] = pane.selection;
  if (pane.selection.size === 1) pane.slips.open(id, true);
}

/**
 * @param {GraphPane} pane
 * @param {KeyboardEvent} event
 */
function pressArrow(pane, event) {
  const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key] ?? [0, 0];
  if (event.shiftKey) {
    for (const id of pane.selection) {
      const [x, y] = pane.places.get(id) ?? [0, 0];
      pane.placing.put([[id, [x + dx * 16, y + dy * 16]]]);
    }
    return pane.keepPlaces([...pane.selection]);
  }
  const next = neighbour(pane, dx, dy);
  if (!next) return;
  if (!event.ctrlKey && !event.metaKey) return pane.focus(next);
  pane.select([...pane.selection, next]);
  pane.reveal(next);
}

/**
 * The nearest card in a direction, or the first of all.
 * @param {GraphPane} pane
 * @param {number} dx
 * @param {number} dy
 */
function neighbour(pane, dx, dy) {
  const from = [...pane.selection].at(-1) ?? "";
  const start = pane.places.get(from);
  if (!start) return [...pane.places].sort(([, a], [, b]) => a[0] - b[0] || a[1] - b[1])[0]?.[0];
  let best = "";
  let least = Infinity;
  for (const [id, [x, y]] of pane.places) {
    const along = (x - start[0]) * dx + (y - start[1]) * dy;
    const aside = Math.abs((x - start[0]) * dy) + Math.abs((y - start[1]) * dx);
    const distance = along + aside * 2;
    if (!pane.selection.has(id) && along > 20 && distance < least) [best, least] = [id, distance];
  }
  return best;
}
