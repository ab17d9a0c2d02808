/** Frames, notes and folded frames on the pane. */
import { askText, menu } from "moth/base/dialogs.js";
import { follow, h } from "moth/base/dom.js";
import { CARD_WIDTH, FOLDED_HEIGHT, foldedKey } from "moth/workbench/graph/places/layout.js";

/**
 * @typedef {object} Ground what is asked of the pane
 * @property {import("../../model/model.js").GraphModel} model
 * @property {import("../places/viewport.js").Viewport} view
 * @property {import("../cards/card_layer.js").CardLayer} layer
 * @property {import("../places/placing.js").Placing} placing
 * @property {HTMLElement} world
 * @property {HTMLElement} pane
 * @property {Map<string, [number, number]>} places
 * @property {(ids: string[]) => void} select
 * @property {(ids: string[]) => void} keepPlaces
 */
/** @typedef {import("../../../types.d.ts").Mark} Mark */
/** @typedef {import("../../../types.d.ts").Frame} Frame */
/** @typedef {import("../../../types.d.ts").Note} Note */
/** @typedef {[number, number]} Point */

const AROUND = 8;
const TITLE = 20;
export class MarksLayer {
  /** @param {Ground} pane */
  constructor(pane) {
    this.pane = pane;
    this.model = pane.model;
    this.layer = h("div", { class: "marks" });
    pane.world.prepend(this.layer);
    /** @type {Map<string, { element: HTMLElement, look: string }>} */
    this.drawn = new Map();
    /** Nodes inside folded frames, with the frame that stands for them. @type {Map<string, Frame>} */
    this.folded = new Map();
  }

  /** @returns {Frame[]} */
  get frames() {
    return /** @type {Frame[]} */ (this.model.state.document.marks.filter((mark) => mark.kind === "frame"));
  }

  /** Reads which nodes are folded away. */
  read() {
    this.folded = new Map();
    for (const frame of this.frames) if (frame.folded) for (const id of frame.nodes) this.folded.set(id, frame);
  }

  show() {
    const marks = this.model.state.document.marks.filter((mark) => mark.kind !== "bookmark");
    const known = new Set(marks.map((mark) => mark.id));
    for (const [id, { element }] of this.drawn) {
      if (known.has(id)) continue;
      element.remove();
      this.drawn.delete(id);
    }
    for (const mark of marks) {
      const look = JSON.stringify(mark);
      const before = this.drawn.get(mark.id);
      if (before?.look === look) continue;
      const element = mark.kind === "frame" ? this.#frame(mark) : this.#note(/** @type {Note} */ (mark));
      if (before) before.element.replaceWith(element);
      else this.layer.append(element);
      this.drawn.set(mark.id, { element, look });
    }
    this.place();
  }

  /** Frames follow their cards. */
  place() {
    for (const mark of this.model.state?.document.marks ?? []) {
      const element = this.drawn.get(mark.id)?.element;
      if (!element) continue;
      if (mark.kind === "note") {
        element.style.transform = `translate(${mark.place[0]}px, ${mark.place[1]}px)`;
      } else if (mark.kind === "frame") {
        const box = mark.folded ? this.#foldedBox(mark) : this.pane.layer.box(this.pane.places, mark.nodes);
        element.hidden = !box;
        if (!box) continue;
        const [around, title] = mark.folded ? [0, 0] : [AROUND, TITLE];
        element.style.transform = `translate(${Math.round(box.left - around)}px, ${Math.round(box.top - around - title)}px)`;
        element.style.width = `${Math.round(box.right - box.left + 2 * around)}px`;
        element.style.height = `${Math.round(box.bottom - box.top + 2 * around + title)}px`;
      }
    }
  }

  /** @param {Frame} frame */
  #foldedBox(frame) {
    const place = this.pane.places.get(foldedKey(frame.id));
    return place && { left: place[0], top: place[1], right: place[0] + CARD_WIDTH, bottom: place[1] + FOLDED_HEIGHT };
  }

  /** @param {Mark} mark */
  #put(mark) {
    void this.model.edit({ op: "put_marks", marks: [mark] });
  }

  /** @param {Frame} frame */
  #frame(frame) {
    const count = `${frame.nodes.length} card${frame.nodes.length === 1 ? "" : "s"}`;
    const title = h(
      "button",
      {
        type: "button",
        class: "frame-title",
        "aria-label": `Frame ${frame.title}, ${count}${frame.folded ? ", folded" : ""}`,
        data: { focus: `mark.${frame.id}` },
      },
      frame.title,
      frame.folded ? h("span", { class: "quiet" }, ` ${count}`) : null,
    );
    title.addEventListener("click", () => this.#frameMenu(frame, title));
    title.addEventListener("pointerdown", (event) => this.#dragFrame(frame, event));
    return h(
      "div",
      { class: `frame ${frame.folded ? "folded" : ""}`, data: { mark: frame.id, tint: frame.tint } },
      title,
    );
  }

  /**
   * @param {Frame} frame
   * @param {HTMLElement} title
   */
  #frameMenu(frame, title) {
    if (title.dataset.moved) return;
    const tints = this.model.settings.tints.filter((tint) => tint !== frame.tint);
    menu(title, [
      ["Select its cards", () => this.pane.select([...frame.nodes])],
      [frame.folded ? "Unfold" : "Fold into one line", () => this.#put({ ...frame, folded: !frame.folded })],
      ["Rename", () => void this.#rename(frame)],
      .../** @type {[string, () => void][]} */ (
        tints.map((tint) => [`Tint: ${tint}`, () => this.#put({ ...frame, tint })])
      ),
      ["Remove the frame", () => void this.model.edit({ op: "put_marks", remove: [frame.id] })],
    ]);
  }

  /** @param {Frame} frame */
  async #rename(frame) {
    const title = await askText("Rename frame", frame.title);
    if (title && title !== frame.title) this.#put({ ...frame, title });
  }

  /**
   * A frame moves with its cards.
   * @param {Frame} frame
   * @param {PointerEvent} event
   */
  #dragFrame(frame, event) {
    if (event.button !== 0 || frame.folded) return;
    const title = /** @type {HTMLElement} */ (event.currentTarget);
    delete title.dataset.moved;
    const starts = frame.nodes.map((key) => ({ key, from: this.pane.places.get(key) ?? [0, 0] }));
    const { zoom } = this.pane.view;
    follow(
      event,
      (dx, dy) => {
        title.dataset.moved = "true";
        this.pane.placing.put(starts.map(({ key, from: [x, y] }) => [key, [x + dx / zoom, y + dy / zoom]]));
      },
      (moved) => {
        if (moved) this.pane.keepPlaces(frame.nodes);
      },
    );
  }

  /** @param {Note} note */
  #note(note) {
    const words = h("p", {}, note.text);
    const element = h(
      "div",
      { class: "graph-note", tabindex: 0, role: "note", data: { mark: note.id, focus: `mark.${note.id}` } },
      words,
    );
    element.addEventListener("dblclick", () => this.write(note, element));
    element.addEventListener("keydown", (event) => {
      if (event.target !== element) return;
      if (event.key === "Enter") this.write(note, element);
      else if (event.key === "Delete") void this.model.edit({ op: "put_marks", remove: [note.id] });
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
    element.addEventListener("pointerdown", (event) => {
      if (event.button !== 0 || event.target instanceof HTMLTextAreaElement) return;
      event.stopPropagation();
      const [x, y] = note.place;
      const { zoom } = this.pane.view;
      let place = note.place;
      follow(
        event,
        (dx, dy) => {
          place = [Math.round(x + dx / zoom), Math.round(y + dy / zoom)];
          element.style.transform = `translate(${place[0]}px, ${place[1]}px)`;
        },
        (moved) => {
          if (moved) this.#put({ ...note, place });
        },
      );
    });
    return element;
  }

  /**
   * Writes in a note, in place. Leaving it keeps the words, Escape takes them back.
   * @param {Note} note
   * @param {HTMLElement} element
   */
  write(note, element) {
    const field = h("textarea", { rows: 3, maxlength: 1000, "aria-label": "Note", class: "field" });
    field.value = note.text;
    let isOver = false;
    /** @param {boolean} keep */
    const end = (keep) => {
      if (isOver) return;
      isOver = true;
      const text = field.value.trim();
      const isNew = !this.drawn.has(note.id);
      if (isNew) element.remove();
      else field.replaceWith(h("p", {}, note.text));
      if (keep && text && text !== note.text) this.#put({ ...note, text });
      else if (keep && !text && !isNew) void this.model.edit({ op: "put_marks", remove: [note.id] });
    };
    field.addEventListener("blur", () => end(true));
    field.addEventListener("keydown", (event) => {
      event.stopPropagation();
      if (event.key === "Escape") end(false);
      else if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) end(true);
      else return;
      event.preventDefault();
      this.pane.pane.focus({ preventScroll: true });
    });
    element.replaceChildren(field);
    field.focus();
  }

  /** @param {Point} place */
  newNote(place) {
    const [x, y] = place.map(Math.round);
    /** @type {Note} */
    const note = { kind: "note", id: this.model.freshId("note"), text: "", place: [x, y] };
    const element = h("div", { class: "graph-note" });
    element.style.transform = `translate(${x}px, ${y}px)`;
    this.layer.append(element);
    this.write(note, element);
  }
}
