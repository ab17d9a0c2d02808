/** What can be set on one step, and which textures come of it. */
import { h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";
import { stopsField } from "moth/fields/stops.js";
import { sourceField } from "moth/textures_room/source_field.js";
import { TilesField } from "moth/textures_room/tiles_field.js";

/** @typedef {import("../types.d.ts").RecipeStep} RecipeStep */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").Setting} Setting */

export class StepFields {
  /**
   * @param {import("./stack_view.js").StackView} view
   * @param {() => void} draw draws the stack again
   */
  constructor(view, draw) {
    this.view = view;
    this.tiles = new TilesField(view, draw);
  }

  /**
   * @param {RecipeStep} step
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
          { class: setting.kind === "tiles" ? "setting whole" : "setting", title: setting.words },
          h("span", { class: "setting-name" }, setting.name),
          this.#field(step, setting, at),
        ),
      ),
      kind.layers.map((layer) => this.#output(step, layer)),
    );
  }

  /**
   * @param {RecipeStep} step
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
      choice: () => this.#choice(setting.choices, String(value), label, focus, both.keep),
      picture: () => this.#source(step, setting, at, focus, both.keep),
      tiles: () => this.tiles.of(step, setting, at),
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
    const fit = (/** @type {number} */ v) => {
      const held = Math.min(setting.high, Math.max(setting.low, v));
      return setting.kind === "whole" ? Math.round(held) : Number(held.toPrecision(6));
    };
    const range = h("input", {
      type: "range",
      min: setting.low,
      max: setting.high,
      step,
      value: String(value),
      "aria-label": label,
      data: { focus: `${key} range` },
    });
    range.addEventListener("input", () => drag(fit(Number(range.value))));
    range.addEventListener("change", () => keep(fit(Number(range.value))));
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
   * @param {string[]} choices
   * @param {string} value
   * @param {string} label
   * @param {string} focus
   * @param {(value: string) => void} set
   */
  #choice(choices, value, label, focus, set) {
    const options = choices.map((one) => h("option", { value: one, selected: one === value }, one));
    const found = h("select", { class: "field", "aria-label": label, data: { focus } }, options);
    found.addEventListener("change", () => set(found.value));
    return found;
  }

  /**
   * Where a picture is taken from: a step above, or a texture.
   * @param {RecipeStep} step
   * @param {Setting} setting
   * @param {number} at
   * @param {string} focus
   * @param {(value: unknown) => void} set
   */
  #source(step, setting, at, focus, set) {
    const isFirst = this.view.kinds.get(step.step)?.settings.find((s) => s.kind === "picture") === setting;
    const none = setting.optional ? "none" : isFirst && at ? "the step above" : "choose …";
    const now = step.values[setting.key];
    return sourceField(this.view, at, { now, none, label: `${setting.name} comes from`, focus, set });
  }

  /**
   * A layer of a step: looked at by a press, and made a texture by its box.
   * @param {RecipeStep} step
   * @param {string} layer
   */
  #output(step, layer) {
    const { recipe } = this.view;
    const known = recipe?.outputs.find((output) => output.step === step.id && output.layer === layer);
    const words = layer.replaceAll("_", " ");
    const focus = `${step.id} ${layer}`;
    const box = h("input", {
      type: "checkbox",
      checked: !!known,
      "aria-label": `Make a texture of ${words}`,
      data: { focus },
    });
    box.addEventListener("change", () => {
      if (!known) void this.view.edit({ op: "add_output", step: step.id, layer });
      else void this.view.edit({ op: "remove_output", id: known.id });
    });
    const isSeen =
      this.view.layer === layer ||
      (!this.view.layer && layer === "picture") ||
      this.view.kinds.get(step.step)?.layers.length === 1;
    const see = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(isSeen),
        data: { focus: `${focus} see` },
        onclick: () => this.view.choose(step.id, layer),
      },
      words,
    );
    if (!known) return h("div", { class: "output" }, box, see);
    const name = h("input", {
      class: "field",
      value: known.name,
      maxlength: 80,
      "aria-label": `Name of the texture of ${words}`,
      data: { focus: `${focus} name` },
    });
    const edit = (/** @type {string} */ called, /** @type {string} */ depth) =>
      void this.view.edit({ op: "edit_output", id: known.id, name: called, depth });
    name.addEventListener("change", () => {
      if (name.value.trim()) edit(name.value, known.depth);
      else name.value = known.name;
    });
    const depth = this.#choice(this.view.settings.depths, known.depth, `Depth of ${words}`, `${focus} depth`, (v) =>
      edit(known.name, v),
    );
    return h("div", { class: "output" }, box, see, name, depth);
  }
}
