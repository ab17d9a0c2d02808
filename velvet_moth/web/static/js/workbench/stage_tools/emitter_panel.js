/** The emitter of a graph: how many instances of its form there are, how they fly, and what each is given over its life. */
import { byId, h } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";
import { stopsField } from "moth/fields/stops.js";

/** @typedef {import("../../types.d.ts").Emitter} Emitter */
/** @typedef {import("../../types.d.ts").InstanceNumber} InstanceNumber */
/** @typedef {"rate" | "burst" | "duration" | "life" | "speed" | "cone" | "radius" | "gravity" | "drag" | "spin" | "size" | "length" | "path_radius" | "turns" | "swirl" | "place" | "seed"} Field */

/** What is said of each number, and what a pixel of a drag changes. @type {[Field, string, number][]} */
const FIELDS = [
  ["rate", "A second", 0.1],
  ["burst", "At once", 1],
  ["duration", "For, s (0: always)", 0.1],
  ["life", "Life, s", 0.01],
  ["size", "Size", 0.005],
  ["speed", "Speed, m/s", 0.01],
  ["cone", "Cone, °", 1],
  ["radius", "Radius, m", 0.005],
  ["gravity", "Gravity, m/s²", 0.1],
  ["drag", "Drag, 1/s", 0.01],
  ["spin", "Spin, °/s", 1],
  ["place", "Place, m", 0.01],
  ["seed", "Seed", 1],
];
/** @type {[Field, string, number][]} */
const OF_PATHS = [
  ["length", "Length, m or s", 0.01],
  ["path_radius", "Radius of the path, m", 0.005],
  ["turns", "Turns", 0.01],
  ["swirl", "Turns a second", 0.01],
];

/** A number of instances as it is when it is added. @param {number} at @returns {InstanceNumber} */
const fresh = (at) => ({
  name: `Number ${at + 1}`,
  points: [
    [0, 0],
    [1, 1],
  ],
  chance: 0,
});

/** @param {number[]} flat @returns {[number, number][]} */
const pairs = (flat) => Array.from({ length: flat.length / 2 }, (_, at) => [flat[at * 2], flat[at * 2 + 1]]);

/**
 * A curve over life, which shows what its points need.
 * @param {string} name
 * @param {[number, number][]} points
 * @param {number} low @param {number} high that it may have
 * @returns {import("../../fields/stops.js").Frame}
 */
function frameOf(name, points, low, high) {
  const heights = points.map(([, y]) => y);
  const [from, to] = [Math.min(0, ...heights), Math.max(1, ...heights.map((y) => y * 1.2))];
  return {
    across: { name: "Share of life", unit: "", from: 0, to: 1, low: 0, high: 1 },
    up: { name, unit: "", from, to, low, high },
    between: "straight",
    isFixed: false,
  };
}

export class EmitterPanel {
  /** @param {import("../model/model.js").GraphModel} model */
  constructor(model) {
    this.model = model;
    this.place = byId("emitter");
    model.addEventListener("state", () => this.#draw());
  }

  get isOn() {
    return this.model.state.emitter !== null;
  }

  get #emitter() {
    return this.model.state.document.emitter;
  }

  /** Draws the form many times, or once. */
  async toggle() {
    const { rate, burst } = this.#emitter;
    await this.#set(rate || burst ? { rate: 0, burst: 0 } : { rate: 20 });
    if (this.isOn) this.place.scrollIntoView({ block: "start" });
  }

  /** @param {Partial<Emitter>} change */
  #set(change) {
    return this.model.edit({ op: "set_emitter", value: { ...this.#emitter, ...change } });
  }

  #draw() {
    this.place.hidden = !this.isOn || this.model.state.shader.projected;
    if (this.place.hidden) return;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const { emitter_paths: paths, emitter_facings: facings } = this.model.settings;
    const emitter = this.#emitter;
    const fields = emitter.path === "free" ? FIELDS : [...FIELDS, ...OF_PATHS];
    const direction = numbersField({
      value: [emitter.turn, emitter.tilt],
      label: "Direction: turn and tilt in degrees",
      step: 1,
      keep: ([turn, tilt]) => void this.#set({ turn, tilt }),
      key: "emitter.direction",
    });
    this.place.replaceChildren(
      h("h2", { class: "eyebrow" }, `Emitter, ${this.model.state.emitter?.slots ?? 0} instances at most`),
      h(
        "div",
        { class: "emitter-fields" },
        this.#choice("Runs", "path", paths),
        this.#choice("Turned", "facing", facings),
        fields.map(([key, words, step]) => this.#number(key, words, step)),
        h("label", { class: "line" }, h("span", {}, "Direction, °"), direction),
        h("label", { class: "line" }, h("span", {}, "Size over life"), this.#size()),
      ),
      h("h2", { class: "eyebrow" }, "Numbers of each instance"),
      h(
        "ul",
        { class: "instance-numbers" },
        emitter.numbers.map((one, at) => this.#row(one, at)),
      ),
      h(
        "div",
        { class: "row" },
        h(
          "button",
          {
            type: "button",
            class: "button small",
            disabled: emitter.numbers.length >= this.model.settings.most_instance_numbers,
            onclick: () => void this.#set({ numbers: [...emitter.numbers, fresh(emitter.numbers.length)] }),
            data: { focus: "emitter.add" },
          },
          "Add a number",
        ),
        h(
          "button",
          { type: "button", class: "button small", onclick: () => void this.toggle(), data: { focus: "emitter.off" } },
          "Draw the form once",
        ),
      ),
    );
    if (focus?.startsWith("emitter."))
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }

  /** @param {Field} key @param {string} words @param {number} step */
  #number(key, words, step) {
    const value = this.#emitter[key];
    const list = Array.isArray(value) ? value : [value];
    if (list.length === 2) return this.#pair(key, words, step, /** @type {[number, number]} */ (value));
    const field = numbersField({
      value: list,
      label: words,
      step,
      keep: (numbers) => void this.#set({ [key]: list.length === 1 ? numbers[0] : numbers }),
      key: `emitter.${key}`,
    });
    return h("label", { class: "line" }, h("span", {}, words), field);
  }

  /**
   * From, and to; what is typed past the other one takes that along.
   * @param {Field} key
   * @param {string} words
   * @param {number} step
   * @param {[number, number]} value
   */
  #pair(key, words, step, [from, to]) {
    const end = (/** @type {string} */ which, /** @type {number} */ now, /** @type {(v: number) => number[]} */ made) =>
      numbersField({
        value: [now],
        label: `${words}, ${which}`,
        step,
        keep: ([one]) => void this.#set({ [key]: made(one) }),
        key: `emitter.${key}.${which}`,
      });
    return h(
      "div",
      { class: "line", role: "group", "aria-label": words },
      h("span", {}, words),
      h(
        "span",
        { class: "emitter-pair" },
        end("from", from, (one) => [one, Math.max(one, to)]),
        end("to", to, (one) => [Math.min(from, one), one]),
      ),
    );
  }

  /** @param {string} words @param {"path" | "facing"} key @param {Record<string, string>} options */
  #choice(words, key, options) {
    const select = h(
      "select",
      { class: "field", "aria-label": words, data: { focus: `emitter.${key}` } },
      Object.entries(options).map(([value, name]) => h("option", { value }, name)),
    );
    select.value = this.#emitter[key];
    select.addEventListener("change", () => void this.#set({ [key]: /** @type {any} */ (select.value) }));
    return h("label", { class: "line" }, h("span", {}, words), select);
  }

  #size() {
    const { size_curve: points } = this.#emitter;
    return stopsField({
      value: points.flat(),
      kind: "curve",
      label: "Size over life",
      key: "emitter.size_curve",
      frame: frameOf("Factor", points, 0, 20),
      drag: () => {},
      keep: (flat) => void this.#set({ size_curve: pairs(flat) }),
    });
  }

  /** @param {InstanceNumber} one @param {number} at */
  #row(one, at) {
    const { numbers } = this.#emitter;
    const change = (/** @type {Partial<InstanceNumber>} */ part) =>
      void this.#set({ numbers: numbers.map((other, index) => (index === at ? { ...other, ...part } : other)) });
    const name = h("input", {
      class: "field",
      value: one.name,
      maxlength: 24,
      required: true,
      "aria-label": `Name of number ${at + 1}`,
      data: { focus: `emitter.name.${at}` },
    });
    name.addEventListener("change", () => name.value.trim() && change({ name: name.value.trim() }));
    const curve = stopsField({
      value: one.points.flat(),
      kind: "curve",
      label: `${one.name} over life`,
      key: `emitter.curve.${at}`,
      frame: frameOf(one.name, one.points, -100, 100),
      drag: () => {},
      keep: (flat) => change({ points: pairs(flat) }),
    });
    const chance = numbersField({
      value: [one.chance],
      label: `Chance of ${one.name}`,
      keep: ([value]) => change({ chance: Math.min(1, Math.max(0, value)) }),
      key: `emitter.chance.${at}`,
    });
    return h(
      "li",
      {},
      h("span", { class: "mono quiet" }, String(at + 1)),
      name,
      curve,
      h("label", { title: "By which share chance makes it less" }, h("span", { class: "quiet" }, "chance"), chance),
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-label": `Remove ${one.name}`,
          title: "Remove",
          onclick: () => void this.#set({ numbers: numbers.filter((_, index) => index !== at) }),
          data: { focus: `emitter.remove.${at}` },
        },
        "×",
      ),
    );
  }
}
