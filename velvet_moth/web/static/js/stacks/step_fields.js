/** What can be set on one step, and what comes of it. */
import { h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";
import { stopsField } from "moth/fields/stops.js";
import { sourceField } from "moth/stacks/source_field.js";

/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").Setting} Setting */

const WIDE = new Set(["tiles", "strokes"]);
const TAKEN = new Set(["picture", "values", "directions", "texture"]);
const plain = (/** @type {string[]} */ choices) => choices.map((one) => /** @type {[string, string]} */ ([one, one]));

/**
 * What a room shows of its own steps.
 * @typedef {{
 *   output: (step: StackStepState, layer: string) => HTMLElement,
 *   tiles?: (step: StackStepState, setting: Setting, at: number) => HTMLElement,
 *   parts?: () => string[],
 *   strokes?: () => HTMLElement,
 * }} OwnFields
 */

export class StepFields {
  /**
   * @param {import("./stack_view.js").StackView<any, any>} view
   * @param {OwnFields} own
   */
  constructor(view, own) {
    this.view = view;
    this.own = own;
  }

  /**
   * @param {StackStepState} step
   * @param {StepKind} kind
   * @param {number} at
   */
  of(step, kind, at) {
    return h(
      "div",
      { class: "step-settings" },
      h("p", { class: "quiet" }, kind.help),
      kind.settings.map((setting) =>
        h(
          "div",
          { class: WIDE.has(setting.kind) ? "setting whole" : "setting", title: setting.words },
          h("span", { class: "setting-name", hidden: setting.kind === "strokes" }, setting.name),
          this.#field(step, setting, at),
        ),
      ),
      kind.reshapes ? null : kind.layers.map((layer) => this.own.output(step, layer)),
    );
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {number} at
   */
  #field(step, setting, at) {
    const value = step.values[setting.key] ?? setting.default;
    const label = setting.name;
    const focus = `${step.id} ${setting.key}`;
    const both = {
      label,
      drag: (/** @type {any} */ v) => this.view.model?.drag(step.id, setting.key, v),
      keep: (/** @type {any} */ v) => void this.view.model?.set(step.id, setting.key, v),
      key: focus,
    };
    const whole = () => this.#number(setting, Number(value), both);
    /** @type {Record<Setting["kind"], () => HTMLElement>} */
    const fields = {
      number: whole,
      whole,
      colour: () => colourField({ value: /** @type {number[]} */ (value), ...both }),
      stops: () => stopsField({ value: /** @type {number[]} */ (value), kind: "gradient", ...both }),
      choice: () => choiceField(plain(setting.choices), String(value), label, focus, both.keep),
      picture: () => this.#source(step, setting, at, focus, both.keep),
      values: () => this.#source(step, setting, at, focus, both.keep),
      directions: () => this.#source(step, setting, at, focus, both.keep),
      texture: () => this.#source(step, setting, at, focus, both.keep),
      part: () => {
        const named = /** @type {[string, string][]} */ ([["", "choose …"], ...plain(this.own.parts?.() ?? [])]);
        return choiceField(named, String(value ?? ""), label, focus, both.keep);
      },
      text: () => textField(String(value ?? ""), label, focus, both.keep),
      strokes: () => this.own.strokes?.() ?? h("span"),
      tiles: () => this.own.tiles?.(step, setting, at) ?? h("span"),
    };
    return fields[setting.kind]();
  }

  /**
   * @param {Setting} setting
   * @param {number} value
   * @param {{ label: string, key: string, drag: (value: number) => void, keep: (value: number) => void }} both
   */
  #number(setting, value, { label, key, drag, keep }) {
    const step = setting.kind === "whole" ? 1 : (setting.high - setting.low) / 200;
    // Lengths are mostly short against the longest that is allowed: a slider gives most of its way to those.
    const isLength = setting.unit === "m" && setting.low === 0;
    const atPlace = (/** @type {number} */ place) => (isLength ? setting.high * place ** 3 : place);
    const placeOf = (/** @type {number} */ held) => (isLength ? (held / setting.high) ** (1 / 3) : held);
    const fit = (/** @type {number} */ v) => {
      const held = Math.min(setting.high, Math.max(setting.low, v));
      return setting.kind === "whole" ? Math.round(held) : Number(held.toPrecision(6));
    };
    const range = h("input", {
      type: "range",
      min: isLength ? 0 : setting.low,
      max: isLength ? 1 : setting.high,
      step: isLength ? 0.005 : step,
      value: String(placeOf(value)),
      "aria-label": label,
      data: { focus: `${key} range` },
    });
    if (isLength) range.ariaValueText = `${value} m`;
    range.addEventListener("input", () => drag(fit(atPlace(Number(range.value)))));
    range.addEventListener("change", () => keep(fit(atPlace(Number(range.value)))));
    const typed = numbersField({
      value: [value],
      label: `${label}, typed`,
      step,
      key,
      drag: ([v]) => drag(fit(v)),
      keep: ([v]) => keep(fit(v)),
    });
    return h(
      "span",
      { class: "setting-number" },
      range,
      typed,
      setting.unit ? h("span", { class: "quiet" }, setting.unit) : null,
    );
  }

  /**
   * Where something is taken from: a step above, or a texture.
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {number} at
   * @param {string} focus
   * @param {(value: unknown) => void} set
   */
  #source(step, setting, at, focus, set) {
    const { kind } = setting;
    const isFirst = this.view.kinds.get(step.step)?.settings.find((s) => TAKEN.has(s.kind)) === setting;
    const gives = (/** @type {StepKind | undefined} */ one) =>
      one && !one.reshapes && one.gives[one.layers[0]] === kind;
    const above = this.view.steps.slice(0, at).map(({ step: key }) => this.view.kinds.get(key));
    const nearest = above.findLast(gives);
    const words = nearest === above.at(-1) ? "the step above" : `the nearest above: ${nearest?.name}`;
    const none = setting.optional ? "none" : isFirst && nearest ? words : "choose …";
    const now = step.values[setting.key];
    return sourceField(this.view, at, { kind, now, none, label: `${setting.name} comes from`, focus, set });
  }
}

/**
 * @param {string} value
 * @param {string} label
 * @param {string} focus
 * @param {(value: string) => void} set
 */
function textField(value, label, focus, set) {
  const input = h("input", { class: "field", value, maxlength: 80, "aria-label": label, data: { focus } });
  input.addEventListener("change", () => set(input.value.trim()));
  return input;
}

/**
 * @param {[string, string][]} choices each with its words
 * @param {string} value
 * @param {string} label
 * @param {string} focus
 * @param {(value: string) => void} set
 */
export function choiceField(choices, value, label, focus, set) {
  const options = choices.map(([one, words]) => h("option", { value: one, selected: one === value }, words));
  const found = h("select", { class: "field", "aria-label": label, data: { focus } }, options);
  found.addEventListener("change", () => set(found.value));
  return found;
}
