/** What is set on the brush, and the strokes of the painted step that is open. */
import { h } from "moth/base/dom.js";
import { LAYERS } from "moth/brush/stroke.js";
import { numbersField } from "moth/fields/fields.js";

/** @typedef {import("../types.d.ts").StrokeState} StrokeState */
/** @typedef {import("./brush.js").Brush} Brush */

/** So many strokes are listed, the newest first. */
const LISTED = 12;
/** @type {Record<string, [string, string][]>} */
const CHOICES = {
  fill: [
    ["", "draws strokes"],
    ["island", "fills the island that is pressed"],
    ["part", "fills the part that is pressed"],
    ["mesh", "fills the whole mesh"],
  ],
  held: [
    ["", "goes anywhere"],
    ["island", "stays on the island where it begins"],
    ["part", "stays on the part where it begins"],
  ],
  side: [
    ["this side", "only what faces as the surface there"],
    ["through", "through to the other side"],
  ],
  mirror: [
    ["", "no mirror"],
    ["x", "mirrored left and right (x)"],
    ["y", "mirrored above and below (y)"],
    ["z", "mirrored front and back (z)"],
  ],
};
/** What the brushes do to directions, where that is not what they are called. @type {Record<string, string>} */
const OF_DIRECTIONS = {
  comb: "comb along the stroke",
  set: "set the speed",
  add: "faster",
  "take away": "slower",
  invert: "turn round",
};
const WORDS = { mode: "Does", fill: "Press", held: "Stroke", side: "Reach", mirror: "Mirror" };

export class BrushPanel {
  /**
   * @param {Brush} brush
   * @param {{
   *   nameOf: (layer: string) => string,
   *   isKept: (layer: string) => boolean,
   *   modes: () => string[],
   *   combs: () => boolean,
   *   remove: (place: number) => void,
   *   view?: { seen: () => { layer: string, isMask: boolean }, see: (layer: string, isMask: boolean) => void },
   *   others: () => [string, string][],
   *   move: (place: number, to: string) => void,
   * }} host `isKept` says whether a channel is made of a layer; `modes` are the brushes of the open step, `combs` says that they comb directions; `others` are the other painted steps that a stroke can go to, with their names
   */
  constructor(brush, host) {
    this.brush = brush;
    this.host = host;
    /** @type {StrokeState[]} */
    this.strokes = [];
    /** The one that was picked on the surface; -1 for none. */
    this.pointed = -1;
    /** Whether the step that was open last combs. */
    this.combed = false;
    this.fields = h("div", { class: "brush-fields" });
    this.list = h("ol", { class: "brush-strokes", "aria-label": "Strokes, the newest first" });
    this.count = h("p", { class: "quiet", role: "status" });
    this.hint = h(
      "p",
      { class: "quiet", hidden: true },
      "Drag on the mesh to draw, beside it to turn. Shift and the wheel: radius. Shift and a press: a straight line from the last end. By keys: arrows move the brush, Enter begins and ends a line.",
    );
    this.place = h("div", { class: "brush-panel" }, this.fields, this.hint, this.count, this.list);
    brush.addEventListener("changed", () => this.draw());
    this.draw();
  }

  draw() {
    const { brush } = this;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.brush;
    this.fields.replaceChildren(
      h(
        "button",
        {
          type: "button",
          class: brush.isOn ? "button small chief" : "button small",
          "aria-pressed": String(brush.isOn),
          title: "B",
          data: { brush: "put" },
          onclick: () => {
            brush.put(!brush.isOn);
            if (brush.isOn) this.place.closest("li")?.scrollIntoView({ block: "start" });
          },
        },
        brush.isOn ? "Put the brush away" : "Take the brush",
      ),
      ...(this.host.combs() ? [] : [this.#touches(), ...(this.host.view ? [this.#seen(this.host.view.seen())] : [])]),
      this.#choice("mode", this.#modes()),
      this.#number(this.host.combs() ? "Speed" : "Value", brush.settings.value, 1, (value) => brush.set({ value })),
      this.#picks(),
      this.#radius(),
      this.#number("Strength", brush.strength, 1, (strength) => {
        brush.strength = strength;
      }),
      this.#number("Softness", brush.settings.softness, 1, (softness) => brush.set({ softness })),
      this.#number("Spacing", brush.spacing, 1, (spacing) => {
        brush.spacing = Math.max(0.05, spacing);
      }),
      this.#choice("fill", this.#fills()),
      this.#choice("held"),
      this.#choice("side"),
      this.#choice("mirror"),
    );
    this.hint.hidden = !brush.isOn;
    if (focus) /** @type {HTMLElement | null} */ (this.fields.querySelector(`[data-brush="${focus}"]`))?.focus();
  }

  /** Another step is open: a brush that touches nothing that is kept of it touches the first layer that is. */
  turn() {
    const { touches, mode } = this.brush.settings;
    const modes = this.host.modes();
    // A brush that combs is for directions; one that is left from before paints on, but does not comb by itself.
    if (this.host.combs() !== this.combed || !modes.includes(mode))
      this.brush.settings.mode = /** @type {any} */ (modes.includes("comb") ? "comb" : modes[0]);
    this.combed = this.host.combs();
    const first = LAYERS.find((layer) => this.host.isKept(layer));
    if (first && !touches.some((layer) => this.host.isKept(layer))) this.brush.set({ touches: [first] });
    else this.draw();
  }

  /** @param {string} words @param {HTMLElement[]} fields */
  #row(words, ...fields) {
    return h("div", { class: "setting" }, h("span", { class: "setting-name" }, words), ...fields);
  }

  #touches() {
    const { touches } = this.brush.settings;
    const box = (/** @type {(typeof LAYERS)[number]} */ layer) => {
      const input = h("input", { type: "checkbox", checked: touches.includes(layer), data: { brush: layer } });
      input.addEventListener("change", () => {
        const now = LAYERS.filter((one) => (one === layer ? input.checked : touches.includes(one)));
        // A brush that touches nothing would be of no use.
        if (!now.length) return void (input.checked = true);
        this.brush.set({ touches: /** @type {any} */ (now) });
        const looked = this.host.view?.seen();
        if (looked && !now.includes(/** @type {any} */ (looked.layer))) this.host.view?.see(now[0], looked.isMask);
      });
      const isKept = this.host.isKept(layer);
      const words = isKept ? this.host.nameOf(layer) : `${layer} (no channel)`;
      return h("label", { class: isKept ? "brush-layer" : "brush-layer quiet" }, input, words);
    };
    return this.#row(
      "Paints",
      h("span", { class: "brush-layers", role: "group", "aria-label": "Paints" }, LAYERS.map(box)),
    );
  }

  /** @param {{ layer: string, isMask: boolean }} now */
  #seen({ layer, isMask }) {
    const option = (/** @type {string} */ one, /** @type {boolean} */ mask) =>
      h(
        "option",
        { value: `${one} ${mask}`, selected: one === layer && mask === isMask },
        `${this.host.nameOf(one)} ${mask ? "over the form" : "by itself, in grey"}`,
      );
    const options = LAYERS.flatMap((one) => [option(one, true), option(one, false)]);
    const select = h("select", { class: "field", "aria-label": "Seen", data: { brush: "seen" } }, options);
    select.addEventListener("change", () => {
      const [one, mask] = select.value.split(" ");
      this.host.view?.see(one, mask === "true");
    });
    return this.#row("Seen", select);
  }

  /** What a press covers; a whole part is combed the way that the stroke goes. @returns {[string, string][]} */
  #fills() {
    if (!this.host.combs()) return CHOICES.fill;
    return CHOICES.fill.map(([key, words]) => [key, key ? `combs the whole ${key} as the stroke goes` : words]);
  }

  /** The brushes of the open step, with their words. @returns {[string, string][]} */
  #modes() {
    return this.host.modes().map((one) => [one, this.#modeWords(one)]);
  }

  /** @param {string} mode */
  #modeWords(mode) {
    return (this.host.combs() && OF_DIRECTIONS[mode]) || mode;
  }

  /** @param {keyof typeof WORDS} key @param {[string, string][]} [choices] */
  #choice(key, choices = CHOICES[key]) {
    const now = this.brush.settings[key];
    const options = choices.map(([value, words]) => h("option", { value, selected: value === now }, words));
    const select = h("select", { class: "field", "aria-label": WORDS[key], data: { brush: key } }, options);
    select.addEventListener("change", () => this.brush.set(/** @type {any} */ ({ [key]: select.value })));
    return this.#row(WORDS[key], select);
  }

  /**
   * @param {string} words
   * @param {number} value
   * @param {number} most
   * @param {(value: number) => void} set
   */
  #number(words, value, most, set) {
    const range = h("input", {
      type: "range",
      min: 0,
      max: most,
      step: 0.01,
      value: String(value),
      "aria-label": words,
      data: { brush: words },
    });
    const shown = h("output", { class: "mono quiet" }, value.toFixed(2));
    range.addEventListener("input", () => {
      shown.textContent = Number(range.value).toFixed(2);
    });
    range.addEventListener("change", () => set(Number(range.value)));
    return this.#row(words, h("span", { class: "setting-number" }, range, shown));
  }

  #radius() {
    const { brush } = this;
    const field = numbersField({
      value: [Number(brush.radius.toPrecision(3))],
      label: "Radius of the brush in metres",
      step: brush.radius / 50,
      keep: ([value]) => brush.setRadius(value),
      drag: ([value]) => {
        brush.radius = Math.max(1e-4, value);
      },
    });
    field.dataset.brush = "radius";
    return this.#row("Radius", h("span", { class: "setting-number" }, field, h("span", { class: "quiet" }, "m")));
  }

  #picks() {
    const { brush } = this;
    const button = (/** @type {"value" | "stroke"} */ what) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-pressed": String(brush.picking === what),
          disabled: !brush.isOn,
          data: { brush: `pick ${what}` },
          onclick: () => brush.pick(brush.picking === what ? "" : what),
        },
        `a ${what}`,
      );
    return this.#row("Pick", h("span", { class: "brush-layers" }, button("value"), button("stroke")));
  }

  /** Shows which stroke was picked on the surface. @param {number | undefined} place */
  point(place) {
    this.pointed = place ?? -1;
    this.show(this.strokes);
    const row = this.list.querySelector(".pointed");
    row?.scrollIntoView({ block: "nearest" });
    /** @type {HTMLElement | null} */ (row?.querySelector("button"))?.focus();
    if (place === undefined) this.count.textContent += " · no stroke is there";
  }

  /** @param {StrokeState[]} strokes */
  show(strokes) {
    this.strokes = strokes;
    const missing = strokes.filter(({ misses }) => misses).length;
    this.count.textContent = [
      strokes.length ? `${strokes.length} stroke${strokes.length === 1 ? "" : "s"}` : "No stroke yet.",
      missing ? `${missing} of them meet${missing === 1 ? "s" : ""} no surface of this mesh` : "",
    ]
      .filter(Boolean)
      .join(" · ");
    const rows = strokes.map((stroke, place) => this.#stroke(stroke, place)).reverse();
    const isListed = (/** @type {number} */ at, /** @type {number} */ place) =>
      at < LISTED || strokes[place].misses || place === this.pointed;
    const listed = rows.filter((_, at) => isListed(at, strokes.length - 1 - at));
    this.list.replaceChildren(...listed);
  }

  /** @param {StrokeState} stroke @param {number} place */
  #stroke({ mode, touches, value, fill, misses }, place) {
    const layers = this.host.combs() ? "" : `: ${touches.map((one) => this.host.nameOf(one)).join(", ")}`;
    const amount = ["set", "add", "take away", "comb"].includes(mode) ? ` ${value.toFixed(2)}` : "";
    const does = this.#modeWords(mode);
    const words = `${place + 1}. ${fill ? `${does} on the whole ${fill}` : does}${amount}${layers}`;
    const others = this.host.others();
    const to = h(
      "select",
      { class: "field", "aria-label": `Move stroke ${place + 1} to`, hidden: !others.length },
      h("option", { value: "" }, "move to …"),
      others.map(([id, name]) => h("option", { value: id }, name)),
    );
    to.addEventListener("change", () => to.value && this.host.move(place, to.value));
    return h(
      "li",
      { class: [misses ? "misses" : "", place === this.pointed ? "pointed" : ""].join(" ").trim() },
      h("span", {}, misses ? `${words} (meets no surface)` : words),
      to,
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-label": `Remove stroke ${place + 1}`,
          onclick: () => this.host.remove(place),
        },
        "×",
      ),
    );
  }
}
