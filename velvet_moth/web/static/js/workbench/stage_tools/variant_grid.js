/** All variants side by side in the stage's place, from the stage's own eye; a press chooses one. */
import { byId, h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { tell } from "moth/base/notices.js";
import { paint } from "moth/workbench/stage_tools/variants.js";

const CALM = 250;

export class VariantGrid {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {import("./variants.js").Variants} variants
   */
  constructor(model, stage, variants) {
    this.model = model;
    this.stage = stage;
    this.variants = variants;
    this.tiles = h("div", { class: "grid-tiles" });
    this.place = h(
      "section",
      { id: "variant-grid", "aria-label": "All variants", hidden: true },
      h(
        "div",
        { class: "row" },
        h("span", {}, "All variants, as the stage is turned"),
        h("button", { type: "button", class: "button small", onclick: () => this.toggle() }, "Back to one"),
      ),
      this.tiles,
    );
    byId("stage-area").append(this.place);
    this.timer = 0;
    /** The variants there are tiles for. */
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
    const every = [{ id: "", name: "Defaults" }, ...this.model.state.document.variants];
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
            "aria-pressed": String(id === this.model.variant),
            onclick: () => {
              this.toggle();
              void this.model.setVariant(id);
            },
          },
          h("canvas", { data: { variant: id } }),
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
      if (this.known !== ["", ...this.model.state.document.variants.map(({ id }) => id)].join()) this.#build();
      for (const canvas of this.tiles.querySelectorAll("canvas")) {
        const [width, height] = [canvas.clientWidth, canvas.clientHeight].map((side) => Math.max(16, Math.round(side)));
        const pixels = await this.variants.pictureOf(canvas.dataset.variant ?? "", width, height);
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
