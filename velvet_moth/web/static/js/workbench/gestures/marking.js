/** Commands that write onto the graph: frames, notes, bookmarks. */
import { askText, menu } from "moth/base/dialogs.js";
import { byId } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../../types.d.ts").Bookmark} Bookmark */

/** @param {GraphPane} pane */
export async function frame(pane) {
  const nodes = [...pane.selection];
  if (!nodes.length) return void notice("Select the cards that belong together, then press R to frame them.");
  const title = await askText("New frame", "Frame", "Frame them");
  if (!title) return;
  /** @type {import("../../types.d.ts").Frame} */
  const mark = { kind: "frame", id: pane.model.freshId("frame"), title, nodes, tint: "stone", folded: false };
  void pane.model.edit({ op: "put_marks", marks: [mark] });
}

/**
 * The frames that hold a selected card.
 * @param {GraphPane} pane
 */
const framesOf = (pane) => pane.marks.frames.filter((f) => f.nodes.some((id) => pane.selection.has(id)));

/** @param {GraphPane} pane */
export function unframe(pane) {
  const remove = framesOf(pane).map((f) => f.id);
  if (remove.length) void pane.model.edit({ op: "put_marks", remove });
  else notice("Select a card of a frame first.");
}

/**
 * Folds the frames of the selection; with nothing selected, unfolds all.
 * @param {GraphPane} pane
 */
export function fold(pane) {
  const frames = pane.selection.size ? framesOf(pane) : pane.marks.frames.filter((f) => f.folded);
  if (!frames.length) return void notice("Select a card of a frame first. With none selected, K unfolds all frames.");
  const folded = pane.selection.size > 0;
  if (folded) pane.select([]);
  void pane.model.edit({ op: "put_marks", marks: frames.map((f) => ({ ...f, folded })) });
}

/** @param {GraphPane} pane */
export function note(pane) {
  const at = pane.pointer;
  pane.marks.newNote(at ? pane.view.toWorld(at.clientX, at.clientY) : pane.view.middle);
}

/**
 * @param {GraphPane} pane
 * @returns {Bookmark[]}
 */
const bookmarks = (pane) =>
  /** @type {Bookmark[]} */ (pane.model.state.document.marks.filter((mark) => mark.kind === "bookmark"));

/** @param {GraphPane} pane */
export async function bookmark(pane) {
  const [id] = pane.selection;
  const title = await askText("Bookmark this view", id ? pane.model.nameOf(id) : "View", "Keep it");
  if (!title) return;
  const [x, y] = pane.view.middle.map(Math.round);
  const zoom = Number(pane.view.zoom.toFixed(3));
  /** @type {import("../../types.d.ts").Bookmark} */
  const mark = { kind: "bookmark", id: pane.model.freshId("bookmark"), title, place: [x, y], zoom };
  void pane.model.edit({ op: "put_marks", marks: [mark] });
}

/**
 * @param {GraphPane} pane
 * @param {number} index
 */
export function goTo(pane, index) {
  const found = bookmarks(pane)[index];
  if (!found) return void notice(`There is no bookmark ${index + 1} yet. B keeps the view as one.`);
  pane.view.set({ zoom: found.zoom });
  pane.view.centre(found.place);
}

/**
 * The menu of bookmarks.
 * @param {GraphPane} pane
 */
export function places(pane) {
  const kept = bookmarks(pane);
  menu(byId("places"), [
    ...kept.map((mark, i) => /** @type {[string, () => void]} */ ([`${i + 1}  ${mark.title}`, () => goTo(pane, i)])),
    ["Bookmark this view (B)", () => void bookmark(pane)],
    ...kept.map(
      (mark) =>
        /** @type {[string, () => void]} */ ([
          `Remove ${mark.title}`,
          () => void pane.model.edit({ op: "put_marks", remove: [mark.id] }),
        ]),
    ),
  ]);
}
