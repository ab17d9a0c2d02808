/** Throwing: what the next throw has, throwing again, what has been thrown, and what the rule made of the chosen one. */
import { getJson } from "moth/base/api.js";
import { h, svg } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";
import { seenAt } from "moth/stage/eye.js";
import { Hand } from "moth/workbench/stage_tools/throwing/hand.js";
import { judge } from "moth/workbench/stage_tools/throwing/judging.js";
import { drawRays } from "moth/workbench/stage_tools/throwing/lines.js";

/** So many throws are a row, one each second. */
const ROW = 8;
/** A press so many pixels from the middle of a splash chooses it. */
const NEAR = 24;

export class ThrowPanel {
  /**
   * @param {HTMLElement} place
   * @param {import("./thrown.js").Thrown} thrown
   */
  constructor(place, thrown) {
    this.place = place;
    this.thrown = thrown;
    /** The graphs that can spurt, once they are known. @type {{ graph: string, title: string }[] | null} */
    this.choices = null;
    const { stage } = thrown;
    const area = /** @type {HTMLElement} */ (stage.canvas.parentElement);
    const layer = () => svg("svg", { class: "throw-lines", "aria-hidden": "true" });
    this.rays = /** @type {SVGSVGElement} */ (layer());
    const drag = /** @type {SVGSVGElement} */ (layer());
    area.append(this.rays, drag);
    this.hand = new Hand(stage, thrown, drag);
    thrown.addEventListener("changed", () => this.draw());
    stage.addEventListener("drawn", () => this.#rays());
    stage.canvas.addEventListener("click", (event) => this.#press(event), { capture: true });
    document.addEventListener("keydown", (event) => {
      if (event.key === "Escape" && this.hand.isOn) this.put(false);
    });
  }

  /** @param {boolean} isOn whether presses on the stage throw */
  put(isOn) {
    this.hand.put(isOn);
    this.draw();
  }

  /** Chooses the splash that is pressed, while presses do not throw. @param {MouseEvent} event */
  #press(event) {
    if (this.place.hidden || this.hand.isOn) return;
    const far = this.thrown.splashes.map(({ decals }) =>
      Math.min(
        ...decals.map(({ place }) => {
          const seen = seenAt(this.thrown.stage, place);
          return seen ? Math.hypot(seen.x - event.offsetX, seen.y - event.offsetY) : Infinity;
        }),
      ),
    );
    const nearest = Math.min(...far);
    if (nearest > NEAR) return;
    event.preventDefault();
    this.thrown.choose(far.indexOf(nearest));
  }

  #rays() {
    drawRays(this.rays, this.thrown.stage, this.place.hidden ? null : this.thrown.choice);
  }

  draw() {
    this.#rays();
    if (this.place.hidden) return;
    const { thrown } = this;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const isOn = this.hand.isOn;
    const canThrow = !!thrown.model.state.document.backdrop;
    const button = (
      /** @type {string} */ words,
      /** @type {() => unknown} */ act,
      /** @type {Record<string, unknown>} */ more = {},
    ) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          onclick: () => void act(),
          data: { focus: `throw.${words}` },
          ...more,
        },
        words,
      );
    this.place.replaceChildren(
      h(
        "div",
        { class: "row" },
        h(
          "button",
          {
            type: "button",
            class: "button small",
            "aria-pressed": String(isOn),
            disabled: !canThrow,
            onclick: () => this.put(!isOn),
            data: { focus: "throw.hand" },
          },
          isOn ? "Press and drag on the stage" : "Throw by hand",
        ),
        button("Throw again", () => (thrown.lastAim ? thrown.throwAt(thrown.lastAim) : this.hand.throwAhead()), {
          disabled: !canThrow,
          title: thrown.lastAim ? "As the last one" : "At the middle of the picture",
        }),
        button("A row, one each second", () => this.#row(), { disabled: !canThrow }),
      ),
      h("p", { class: "quiet" }, this.#hint(canThrow)),
      this.#next(),
      this.#list(button),
    );
    if (focus?.startsWith("throw."))
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }

  /** @param {boolean} canThrow */
  #hint(canThrow) {
    if (!canThrow) return "Choose what lies behind: there is nothing to throw at.";
    return this.hand.isOn
      ? "Press where it should land and drag the way it flies; the longer, the harder. Alt turns the eye, Escape ends it, Enter throws at the middle."
      : "Throws are seen, measured and changed by the rule until they are kept as decals of the graph. Press on one to choose it.";
  }

  #row() {
    const { thrown } = this;
    const { length } = thrown.model.state.document.timing;
    const from = thrown.stage.time;
    const moments = Array.from({ length: ROW }, (_, at) => from + at).filter((moment) => moment < length);
    return thrown.lastAim
      ? thrown.throwAt(thrown.lastAim, moments)
      : this.hand.throwAhead().then(() => thrown.throwAt(thrown.lastAim ?? {}, moments.slice(1)));
  }

  /** What the next throw has. */
  #next() {
    const { thrown } = this;
    const field = (/** @type {string} */ words, /** @type {HTMLElement} */ input) =>
      h("label", { class: "throw-field" }, h("span", {}, words), input);
    const same = h("input", {
      type: "checkbox",
      "aria-label": "The same seed again",
      checked: thrown.keepsSeed,
      data: { focus: "throw.same" },
    });
    same.addEventListener("change", () => (thrown.keepsSeed = same.checked));
    const seed = numbersField({
      value: [thrown.seed],
      label: "Seed of the next throw",
      step: 1,
      keep: ([one]) => {
        thrown.seed = Math.min(65535, Math.max(0, Math.round(one)));
        this.draw();
      },
      key: "throw.seed",
    });
    const strength = numbersField({
      value: [thrown.strength],
      label: "Strength without a drag",
      keep: ([one]) => {
        thrown.strength = Math.min(1, Math.max(0, one));
        this.draw();
      },
      key: "throw.strength",
    });
    const numbers = numbersField({
      value: thrown.numbers,
      label: "Four numbers of the decals",
      keep: (four) => (thrown.numbers = /** @type {[number, number, number, number]} */ (four)),
      key: "throw.numbers",
    });
    const tint = colourField({
      value: thrown.tint,
      label: "Tint of the next throw",
      keep: (rgb) => {
        thrown.tint = /** @type {[number, number, number]} */ (rgb);
        this.draw();
      },
      drag: () => {},
      key: "throw.tint",
      text: false,
    });
    return h(
      "div",
      { class: "throw-next" },
      field("Seed", seed),
      field("the same again", same),
      field("Strength", strength),
      field("Tint", tint),
      field("Numbers", numbers),
      this.#spurt(),
    );
  }

  /** Which graph spurts at each throw. */
  #spurt() {
    const { model } = this.thrown;
    const { spurt } = model.state.document;
    const known = this.choices ?? (model.state.spurt ? [model.state.spurt] : []);
    const select = h(
      "select",
      {
        class: "field",
        "aria-label": "Spurts: the graph whose emitter starts where it lands",
        data: { focus: "throw.spurt" },
      },
      h("option", { value: "" }, "nothing"),
      known.map(({ graph, title }) => h("option", { value: graph }, title)),
    );
    select.value = spurt;
    select.addEventListener("change", () => void model.edit({ op: "set_spurt", value: select.value }));
    return h("label", { class: "throw-field", title: "Starts where it lands" }, h("span", {}, "Spurts"), select);
  }

  /** Fetches which graphs can spurt. */
  async load() {
    ({ graphs: this.choices } = await getJson(`${this.thrown.model.url}/spurt_choices`));
    this.draw();
  }

  /**
   * What has been thrown, and what the rule made of the chosen one.
   * @param {(words: string, act: () => unknown, more?: Record<string, unknown>) => HTMLElement} button
   */
  #list(button) {
    const { thrown } = this;
    const { splashes, chosen, choice } = thrown;
    const acts = h(
      "div",
      { class: "row" },
      button("‹", () => thrown.choose(chosen - 1), { disabled: chosen <= 0, "aria-label": "The throw before" }),
      h(
        "span",
        { class: "mono", role: "status" },
        splashes.length ? `${chosen + 1} of ${splashes.length}` : "none thrown",
      ),
      button("›", () => thrown.choose(chosen + 1), {
        disabled: chosen >= splashes.length - 1,
        "aria-label": "The next throw",
      }),
      button("Clear", () => thrown.clear(), { disabled: !splashes.length }),
      button("Keep", () => thrown.keep(), {
        disabled: !thrown.decals.length,
        title: "As decals of the graph",
      }),
    );
    const judging = h(
      "div",
      { class: "row" },
      button("Judge many …", () => judge(thrown).catch(tell), {
        disabled: !thrown.model.state.document.backdrop,
        title: "Throws all over what is seen now, and measures what comes of it",
      }),
      h(
        "label",
        { class: "throw-field" },
        numbersField({
          value: [thrown.count],
          label: "How many are judged",
          step: 10,
          keep: ([many]) => {
            thrown.count = Math.min(1000, Math.max(10, Math.round(many)));
            this.draw();
          },
          key: "throw.count",
        }),
        h("span", {}, "throws"),
      ),
    );
    if (!choice) return h("div", {}, acts, judging);
    const parts = thrown.model.settings.rule_parts;
    const number = (/** @type {number} */ value, /** @type {string} */ unit) =>
      `${Number(value.toPrecision(3))}${unit ? ` ${unit}` : ""}`;
    const made = choice.made.map(({ part, across, up }) => {
      const { name, across: x, up: y } = parts[part];
      return h(
        "tr",
        {},
        h("th", { scope: "row" }, name),
        h("td", { class: "quiet" }, `${x.name} ${number(across, x.unit)}`),
        h("td", { class: "mono" }, number(up, y.unit)),
      );
    });
    const seed = h("p", {}, `Seed ${choice.throw.seed}, strength ${choice.throw.strength}. ${choice.words.join(" ")}`);
    return h("div", {}, acts, judging, seed, h("table", { class: "throw-made" }, h("tbody", {}, made)));
  }
}
