/** The menu under the right button: the commands of the keys, for cards or for the ground. */
import { menu } from "moth/base/dialogs.js";
import { COMMANDS } from "moth/workbench/gestures/commands.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

/**
 * @param {GraphPane} pane
 * @param {import("./commands.js").Panels} panels
 * @param {MouseEvent} event
 */
export function openMenu(pane, panels, event) {
  const target = /** @type {HTMLElement} */ (event.target);
  if (target.closest("input, select, textarea, a, .over-pane, .wire, .graph-note, .frame-title")) return;
  event.preventDefault();
  const card = /** @type {HTMLElement | null} */ (target.closest(".card"));
  const id = card?.dataset.node ?? "";
  if (id && !pane.selection.has(id)) pane.select([id]);
  if (!id) pane.select([]);
  // A node that the menu adds comes where the menu was opened.
  pane.pointer = event;
  const wanted = id ? "cards" : "ground";
  const commands = Object.values(COMMANDS)
    .flat()
    .filter((command) => command.menus?.includes(wanted));
  // By keyboard it opens below the card.
  const at = { left: event.clientX, top: event.clientY, bottom: event.clientY };
  menu(
    card ?? pane.pane,
    commands.map(({ words, name, keys, run }) => [name ?? words, () => run(pane, panels), keys[0]]),
    event.clientX || event.clientY ? at : undefined,
  );
}
