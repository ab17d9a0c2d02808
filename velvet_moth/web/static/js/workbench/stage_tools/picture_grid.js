/** Several pictures side by side in the stage's place, from the stage's own eye: all variants, or all lights; a press chooses one. */
import { byId, h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { tell } from "moth/base/notices.js";
import { paint } from "moth/workbench/stage_tools/variants.js";

const CALM = 250;

/**
 * What a grid shows.
 * @typedef {object} Shows
 * @property {string} id of its element
 * @property {string} words
 * @property {() => { id: string, name: string }[]} every
 * @property {() => string} current
 * @property {(id: string, width: number, height: number) => Promise<Uint8Array | null>} picture
 * @property {(id: string) => void} choose
 */

export class PictureGrid {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {Shows} shows
   */
  constructor(model, stage, shows) {
    this.model = model;
    this.stage = stage;
    this.shows = shows;
    this.tiles = h("div", { class: "grid-tiles" });
    this.place = h(
      "section",
      { id: shows.id, class: "picture-grid", "aria-label": shows.words, hidden: true },
      h(
        "div",
        { class: "row" },
        h("span", {}, `${shows.words}, as the stage is turned`),
        h("button", { type: "button", class: "button small", onclick: () => this.toggle() }, "Back to one"),
      ),
      this.tiles,
    );
    byId("stage-area").append(this.place);
    this.timer = 0;
    /** What there are tiles for. */
    this.known = "";
    this.isPainting = false;
    model.addEventListener("state", () => this.#soon());
    model.addEventListener("dragged", () => this.#soon());
    stage.addEventListener("drawn", () => this.#soon());
  }

  get isOpen() {
    return !this.place.hidden;
  }

  toggle() {
    this.place.hidden = this.isOpen;
    if (!this.isOpen) return this.stage.canvas.focus();
    opened(
      () => this.isOpen,
      () => this.toggle(),
    );
    const { clientHeight, offsetTop } = this.stage.canvas;
    Object.assign(this.place.style, { top: `${offsetTop}px`, height: `${clientHeight}px` });
    this.#build();
    this.place.querySelector("button")?.focus();
    void this.#paint().catch(tell);
  }

  #build() {
    const every = this.shows.every();
    this.known = every.map(({ id }) => id).join();
    const columns = Math.ceil(Math.sqrt(every.length));
    this.tiles.style.gridTemplateColumns = `repeat(${columns}, minmax(0, 1fr))`;
    this.tiles.replaceChildren(
      ...every.map(({ id, name }) =>
        h(
          "button",
          {
            type: "button",
            class: "grid-tile",
            "aria-pressed": String(id === this.shows.current()),
            onclick: () => {
              this.toggle();
              this.shows.choose(id);
            },
          },
          h("canvas", { data: { shows: id } }),
          h("span", {}, name),
        ),
      ),
    );
  }

  #soon() {
    if (!this.isOpen) return;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.#paint().catch(tell), CALM);
  }

  /** One picture after the other, so that the page stays at hand. */
  async #paint() {
    if (this.isPainting || !this.stage.isReady) return;
    this.isPainting = true;
    try {
      const wanted = this.shows.every().map(({ id }) => id);
      if (this.known !== wanted.join()) this.#build();
      for (const canvas of this.tiles.querySelectorAll("canvas")) {
        const [width, height] = [canvas.clientWidth, canvas.clientHeight].map((side) => Math.max(16, Math.round(side)));
        const pixels = await this.shows.picture(canvas.dataset.shows ?? "", width, height);
        if (!pixels || !this.isOpen) return;
        [canvas.width, canvas.height] = [width, height];
        paint(canvas, pixels);
        canvas.dataset.painted = "true";
      }
    } finally {
      this.isPainting = false;
    }
  }
}
