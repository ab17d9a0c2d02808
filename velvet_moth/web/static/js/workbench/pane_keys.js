/** The keys of the graph pane. */
import { askText } from "moth/dialogs.js";
import { isTyping } from "moth/dom.js";
import { notice } from "moth/notices.js";

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
    s: () => showSelected(pane),
    f: () => pane.fit(),
    l: () => layOutAgain(pane),
    m: () => void makeMotif(pane),
    Delete: () => removeSelected(pane),
    Backspace: () => removeSelected(pane),
    Escape: () => pane.select([]),
    "+": () => pane.view.zoomBy(1.2),
    "=": () => pane.view.zoomBy(1.2),
    "-": () => pane.view.zoomBy(1 / 1.2),
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
      pane.placing.put([[id, [x + dx * 16, y + dy * 16]]]);
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

/** @param {GraphPane} pane */
function removeSelected(pane) {
  const nodes = [...pane.selection];
  if (nodes.length) void pane.model.edit({ op: "remove_nodes", nodes });
}

/** @param {GraphPane} pane */
async function makeMotif(pane) {
  const nodes = [...pane.selection];
  if (!nodes.length) return void notice("Select the nodes that belong together, then press M to make a motif of them.");
  const title = await askText("New motif", "Motif", "Make it");
  if (title) await pane.model.ask("motifs", { nodes, title });
}

/** @param {GraphPane} pane */
function showSelected(pane) {
  const [id] = pane.selection;
  if (!id) return void pane.model.setShown("");
  const outputs = pane.model.typeOf(id).outputs.map((o) => `${id}.${o.key}`);
  // Again and again walks through a node's outputs and back to the surface.
  void pane.model.setShown(outputs[outputs.indexOf(pane.model.shown) + 1] ?? "");
}

/** @param {GraphPane} pane */
function layOutAgain(pane) {
  const chosen = pane.selection.size ? [...pane.selection] : [...pane.cards.keys()];
  const placed = chosen.filter((id) => pane.model.nodes.get(id)?.place);
  if (placed.length) {
    void pane.model.edit({ op: "move_nodes", places: Object.fromEntries(placed.map((id) => [id, null])) });
  }
}
