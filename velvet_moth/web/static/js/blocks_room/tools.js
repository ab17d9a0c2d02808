/** The tools over the stage: what is done, by which shape, mirrored, in which layers; and what is done with a chosen part. */
import { byId, h } from "moth/base/dom.js";
import { HANDS } from "moth/blocks_room/drawing.js";

/** @typedef {import("./drawing.js").Drawing} Drawing */

const AXES = ["x", "y", "z"];
/** By which key each way is taken up. */
const KEYS = /** @type {Record<string, string>} */ ({ put: "b", take: "x", recolour: "r", pick: "p", choose: "c" });

/**
 * @param {string} words
 * @param {boolean} isOn
 * @param {string} title
 * @param {() => void} onclick
 * @param {string} [label] where the words do not say enough
 */
const toggle = (words, isOn, title, onclick, label) =>
  h(
    "button",
    { type: "button", class: "button small", "aria-pressed": String(isOn), title, "aria-label": label, onclick },
    words,
  );

export class Tools {
  /**
   * @param {Drawing} drawing
   * @param {import("../types.d.ts").BlockSettings} settings
   * @param {{ layers: (layers: import("./block_model.js").BlockModel["layers"]) => void, middle: () => [number, number, number] }} host
   */
  constructor(drawing, settings, host) {
    this.drawing = drawing;
    this.settings = settings;
    this.host = host;
    this.layers = { axis: "", first: 0, last: 0 };
    drawing.addEventListener("changed", () => this.draw());
    drawing.addEventListener("part", () => this.draw());
    this.draw();
  }

  draw() {
    const { drawing, settings } = this;
    const ways = { ...settings.block_ways, ...HANDS };
    byId("block-ways").replaceChildren(
      ...Object.entries(ways).map(([key, words]) =>
        toggle(words, drawing.way === key, `${words} (${KEYS[key].toUpperCase()})`, () => drawing.set({ way: key })),
      ),
    );
    byId("shapes").replaceChildren(
      ...Object.entries(settings.shapes).map(([key, { name, words }]) =>
        toggle(name, drawing.shape === key, words, () => drawing.set({ shape: key })),
      ),
    );
    byId("shapes").hidden = !(drawing.way in settings.block_ways);
    byId("mirrors").hidden = byId("shapes").hidden;
    byId("mirrors").replaceChildren(
      h("span", { class: "quiet" }, "Mirror"),
      ...AXES.map((axis, at) =>
        toggle(
          axis,
          drawing.mirrored[at],
          `Also on the other side of the middle along ${axis}`,
          () => this.#mirror(at),
          `Mirror along ${axis}`,
        ),
      ),
    );
    this.#drawLayers();
  }

  /** A mirror stands in the middle of the model as it is when it is switched on. @param {number} at */
  #mirror(at) {
    const mirrored = /** @type {[boolean, boolean, boolean]} */ ([...this.drawing.mirrored]);
    const about = /** @type {[number, number, number]} */ ([...this.drawing.about]);
    mirrored[at] = !mirrored[at];
    if (mirrored[at]) about[at] = this.host.middle()[at];
    this.drawing.set({ mirrored, about });
  }

  #drawLayers() {
    const { axis, first, last } = this.layers;
    const choice = h(
      "select",
      {
        class: "field",
        "aria-label": "Layers across",
        onchange: (/** @type {Event} */ event) => {
          const chosen = /** @type {HTMLSelectElement} */ (event.target).value;
          const at = Math.floor(this.host.middle()[AXES.indexOf(chosen)] ?? 0);
          this.setLayers({ axis: chosen, first: at, last: at });
        },
      },
      h("option", { value: "" }, "All layers"),
      ...AXES.map((one) => h("option", { value: one, selected: one === axis }, `Layers across ${one}`)),
    );
    const field = (/** @type {"first" | "last"} */ key, /** @type {string} */ words) =>
      h("input", {
        class: "field layer",
        type: "number",
        min: 0,
        max: this.settings.side - 1,
        value: String(this.layers[key]),
        "aria-label": words,
        onchange: (/** @type {Event} */ event) => {
          const { valueAsNumber } = /** @type {HTMLInputElement} */ (event.target);
          const at = Math.min(this.settings.side - 1, Math.max(0, Math.round(valueAsNumber || 0)));
          const other = key === "first" ? Math.max(at, last) : Math.min(at, first);
          this.setLayers(key === "first" ? { axis, first: at, last: other } : { axis, first: other, last: at });
        },
      });
    const focus = document.activeElement?.getAttribute("aria-label");
    byId("layers").replaceChildren(
      choice,
      ...(axis ? [field("first", "First layer"), field("last", "Last layer")] : []),
    );
    if (focus) /** @type {HTMLElement | null} */ (byId("layers").querySelector(`[aria-label="${focus}"]`))?.focus();
  }

  /** @param {Tools["layers"]} layers */
  setLayers(layers) {
    this.layers = layers;
    const most = this.settings.side - 1;
    const [low, high] = /** @type {[number[], number[]]} */ ([
      [0, 0, 0],
      [most, most, most],
    ]);
    const at = AXES.indexOf(layers.axis);
    if (at >= 0) [low[at], high[at]] = [layers.first, layers.last];
    this.drawing.set({ within: /** @type {import("./drawing.js").Ends} */ ([low, high]) });
    this.host.layers(layers);
  }

  /** The way that a key takes up; whether it does. @param {string} key */
  byKey(key) {
    const way = Object.keys(KEYS).find((one) => KEYS[one] === key);
    if (way) this.drawing.set({ way });
    return !!way;
  }
}
