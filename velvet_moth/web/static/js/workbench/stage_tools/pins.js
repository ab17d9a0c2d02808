/** Pins: pixels of the stage whose values every card shows, computed by the core for the very point that is seen there. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { seenAt, viewAt } from "moth/stage/eye.js";
import { shortText } from "moth/workbench/graph/cards/cards.js";

/** @typedef {{ place: number[], light: number[], shown: number[], values: Record<string, number[]> }} Found */
/** @typedef {{ query: Record<string, string>, found: Found }} Pin */

const MOST = 4;
/** A pointer that moves further has dragged, in pixels. */
const SLACK = 4;

/** @param {number[]} shown sRGB, 0..1 */
const hex = (shown) =>
  `#${shown
    .map((c) =>
      Math.round(Math.min(Math.max(c, 0), 1) * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`.toUpperCase();

export class Pins {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../graph/graph_pane.js").GraphPane} pane
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(model, pane, stage) {
    this.model = model;
    this.pane = pane;
    this.stage = stage;
    /** @type {Pin[]} */
    this.pins = [];
    this.active = -1;
    this.list = h("ol", { id: "pins", "aria-label": "Pins: values at a pixel", hidden: true });
    byId("stage-area").append(this.list);
    /** @type {HTMLElement[]} */
    this.marks = [];
    this.again = 0;
    let from = [0, 0];
    stage.canvas.addEventListener("pointerdown", (event) => (from = [event.clientX, event.clientY]), { capture: true });
    stage.canvas.addEventListener("click", (event) => {
      const moved = Math.hypot(event.clientX - from[0], event.clientY - from[1]) > SLACK;
      if (!moved && !stage.lightMode && !event.defaultPrevented)
        void this.#pin(event.offsetX, event.offsetY).catch(tell);
    });
    stage.canvas.addEventListener("keydown", (event) => {
      if (event.key !== "Enter") return;
      void this.#pin(stage.canvas.clientWidth / 2, stage.canvas.clientHeight / 2).catch(tell);
    });
    stage.addEventListener("drawn", () => this.#place());
    model.addEventListener("state", () => this.#refresh());
  }

  /**
   * @param {number} x pixels of the page from the left
   * @param {number} y pixels of the page from the top
   */
  async #pin(x, y) {
    const query = viewAt(this.stage, x, y);
    const found = await this.#ask(query);
    if (!found) return void notice("There is no surface at this pixel.", { mend: "Press on the form." });
    if (this.pins.length === MOST) this.pins.shift();
    this.pins.push({ query, found });
    this.#choose(this.pins.length - 1);
  }

  /**
   * @param {Record<string, string>} query
   * @returns {Promise<Found | null>}
   */
  #ask(query) {
    return getJson(`${this.model.url}/pin?${new URLSearchParams({ ...query, variant: this.model.variant })}`);
  }

  /** After an edit every pin is asked again, once it is quiet. */
  #refresh() {
    if (!this.pins.length) return;
    clearTimeout(this.again);
    this.again = window.setTimeout(async () => {
      try {
        for (const pin of this.pins) {
          const found = await this.#ask(pin.query);
          if (found) pin.found = found;
        }
        this.#choose(this.active, false);
      } catch (error) {
        tell(error);
      }
    }, 120);
  }

  /**
   * @param {number} index
   * @param {boolean} [isNew] whether another pin is looked at than before
   */
  #choose(index, isNew = true) {
    this.active = Math.min(index, this.pins.length - 1);
    this.model.pinned = new Map(Object.entries(this.pins[this.active]?.found.values ?? {}));
    this.pane.layer.refreshValues();
    this.model.dispatchEvent(new CustomEvent("pinned", { detail: isNew }));
    this.#draw();
  }

  /** @param {number} index */
  #remove(index) {
    this.pins.splice(index, 1);
    this.#choose(this.active >= index ? this.active - 1 : this.active);
    if (this.active < 0 && this.pins.length) this.#choose(0);
  }

  #draw() {
    this.list.hidden = !this.pins.length;
    this.list.replaceChildren(
      ...this.pins.map(({ found }, index) => {
        const swatch = h("span", { class: "colour-chip" });
        swatch.style.background = hex(found.shown);
        return h(
          "li",
          { class: index === this.active ? "active" : "" },
          h(
            "button",
            {
              type: "button",
              "aria-pressed": String(index === this.active),
              title: "Every card shows its value here",
              onclick: () => this.#choose(index),
            },
            h("span", { class: "pin-number" }, String(index + 1)),
            swatch,
            h("span", { class: "mono" }, `${hex(found.shown)} · light ${shortText(found.light)}`),
          ),
          h(
            "button",
            { type: "button", "aria-label": `Take pin ${index + 1} away`, onclick: () => this.#remove(index) },
            "×",
          ),
        );
      }),
    );
    for (const mark of this.marks) mark.remove();
    this.marks = this.pins.map((_, index) =>
      h(
        "span",
        { class: index === this.active ? "pin-mark active" : "pin-mark", "aria-hidden": "true" },
        String(index + 1),
      ),
    );
    byId("stage-area").append(...this.marks);
    this.#place();
  }

  /** The marks stay on the points of the form, wherever it is seen from. */
  #place() {
    this.pins.forEach(({ found }, index) => {
      const at = seenAt(this.stage, found.place);
      const mark = this.marks[index];
      mark.hidden = !at;
      const { offsetLeft, offsetTop } = this.stage.canvas;
      if (at) mark.style.translate = `${at.x + offsetLeft}px ${at.y + offsetTop}px`;
    });
  }
}
