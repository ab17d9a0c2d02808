/** Finding cards by name, kind, parameter, texture or problem. */
import { getJson } from "moth/base/api.js";
import { byId } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { tell } from "moth/base/notices.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

export class Finder {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    this.bar = byId("finder");
    this.input = byId("find");
    /** @type {string[]} */
    this.found = [];
    this.at = 0;
    /** Names by texture id. @type {Map<string, string>} */
    this.textures = new Map();
    this.input.addEventListener("input", () => this.#search());
    this.input.addEventListener("keydown", (/** @type {KeyboardEvent} */ event) => {
      if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) this.#addToSelection();
      else if (event.key === "Enter") this.step(event.shiftKey ? -1 : 1, true);
      else if (event.key === "Escape") this.close();
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
    byId("find-next").addEventListener("click", () => this.step(1));
    byId("find-previous").addEventListener("click", () => this.step(-1));
    byId("find-close").addEventListener("click", () => this.close());
    pane.pane.addEventListener("shown", () => this.bar.hidden || this.#mark());
  }

  open() {
    this.bar.hidden = false;
    opened(
      () => !this.bar.hidden,
      () => this.close(),
    );
    this.input.select();
    this.input.focus();
    getJson("/api/textures")
      .then(({ textures }) => {
        this.textures = new Map(textures.map((/** @type {any} */ t) => [t.id, t.name]));
        // Meanwhile one may have gone to a card already.
        this.#search(this.found[this.at]);
      })
      .catch(tell);
  }

  close() {
    this.bar.hidden = true;
    this.input.value = "";
    this.found = [];
    this.#mark();
    this.pane.pane.focus({ preventScroll: true });
  }

  /**
   * Everything that a card could be looked for by.
   * @param {string} id
   */
  #words(id) {
    const { model } = this.pane;
    const node = model.nodes.get(id);
    const type = model.typeOf(id);
    const textures = Object.values(node?.values ?? {}).filter((v) => typeof v === "string");
    return [
      node?.label,
      type.name,
      type.group,
      ...model.parametersOf(id).map((p) => p.name),
      ...textures.map((t) => this.textures.get(/** @type {string} */ (t))),
      ...model.problemsOf(id).flatMap((p) => [p.what, p.severity, "problem"]),
      node?.muted ? "muted" : "",
    ]
      .join(" ")
      .toLowerCase();
  }

  /** @param {string} [stood] the card one has gone to */
  #search(stood) {
    const words = this.input.value.toLowerCase().split(/\s+/).filter(Boolean);
    const ids = words.length ? [...this.pane.cards.keys()] : [];
    // From left to right, as the graph is read; but what is called just so comes first.
    const place = (/** @type {string} */ id) => this.pane.places.get(id) ?? [0, 0];
    const typed = this.input.value.trim().toLowerCase();
    const isCalledSo = (/** @type {string} */ id) => Number(this.pane.model.nameOf(id).toLowerCase() === typed);
    this.found = ids
      .filter((id) => words.every((/** @type {string} */ w) => this.#words(id).includes(w)))
      .sort((a, b) => isCalledSo(b) - isCalledSo(a) || place(a)[0] - place(b)[0] || place(a)[1] - place(b)[1]);
    this.at = stood ? this.found.indexOf(stood) : -1;
    this.#mark();
  }

  #mark() {
    const found = new Set(this.found);
    for (const [id, { element }] of this.pane.cards) element.classList.toggle("found", found.has(id));
    const count = this.found.length;
    byId("find-count").textContent = count ? `${this.at + 1}/${count}` : this.input.value ? "none" : "";
  }

  /** Selects the card found besides those that are selected already. */
  #addToSelection() {
    const id = this.found[Math.max(0, this.at)];
    if (!id) return;
    this.pane.unfoldFor(id);
    this.pane.select([...new Set([...this.pane.selection, id])]);
    this.pane.reveal(id);
  }

  /**
   * Goes to the next or previous card that was found.
   * @param {number} by
   * @param {boolean} [stay] whether the keyboard stays in the bar
   */
  step(by, stay = false) {
    if (this.bar.hidden && !this.found.length) return this.open();
    const count = this.found.length;
    if (!count) return;
    this.at = (Math.max(this.at, by > 0 ? -1 : 0) + by + count) % count;
    const id = this.found[this.at];
    this.pane.unfoldFor(id);
    this.pane.select([id]);
    this.pane.reveal(id);
    if (!stay) this.pane.cards.get(id)?.element.focus({ preventScroll: true });
    this.#mark();
  }
}
