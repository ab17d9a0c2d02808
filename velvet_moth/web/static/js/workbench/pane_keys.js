/** The keys of the graph pane. */
import { isTyping } from "moth/dom.js";

/** @typedef {import("./graph_pane.js").GraphPane} GraphPane */

/**
 * @param {GraphPane} pane
 * @param {KeyboardEvent} event
 */
export function pressKey(pane, event) {
  const card = /** @type {HTMLElement} */ (event.target).closest(".card");
  if (event.key === "Escape" && card instanceof HTMLElement && card !== event.target) {
    event.preventDefault();
    return card.focus({ preventScroll: true });
  }
  if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
  const [id] = pane.selection;
  const onButton = event.target instanceof HTMLButtonElement;
  /** @type {Record<string, () => void>} */
  const actions = {
    " ": () => pane.add(),
    w: () => id && pane.onWire(id),
    s: () => pane.showSelected(),
    f: () => pane.fit(),
    l: () => pane.layOutAgain(),
    Delete: () => pane.removeSelected(),
    Backspace: () => pane.removeSelected(),
    Escape: () => pane.select([]),
    "+": () => pane.zoom(1.2),
    "=": () => pane.zoom(1.2),
    "-": () => pane.zoom(1 / 1.2),
    Enter: () => {
      const chosen = id && pane.cards.get(id)?.element;
      const field =
        chosen && chosen.querySelector(".inputs input, .inputs button:not(.pin, .unplug), .open-part select");
      if (field instanceof HTMLElement) field.focus();
    },
  };
  if (event.key.startsWith("Arrow")) pressArrow(pane, event);
  else if (actions[event.key] && !(onButton && (event.key === " " || event.key === "Enter"))) actions[event.key]();
  else return;
  event.preventDefault();
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
      pane.places.set(id, [x + dx * 16, y + dy * 16]);
    }
    return pane.keepPlaces([...pane.selection]);
  }
  const [from] = pane.selection;
  const start = pane.places.get(from);
  if (!start) {
    const first = [...pane.places].sort(([, a], [, b]) => a[0] - b[0] || a[1] - b[1])[0];
    if (first) pane.focus(first[0]);
    return;
  }
  let best = "";
  let least = Infinity;
  for (const [id, [x, y]] of pane.places) {
    const along = (x - start[0]) * dx + (y - start[1]) * dy;
    const aside = Math.abs((x - start[0]) * dy) + Math.abs((y - start[1]) * dx);
    const distance = along + aside * 2;
    if (id !== from && along > 20 && distance < least) [best, least] = [id, distance];
  }
  if (best) pane.focus(best);
}
