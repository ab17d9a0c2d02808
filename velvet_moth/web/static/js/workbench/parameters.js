/** The parameters of the current variant: sliders and colours, with what is overridden marked. */
import { sheet } from "moth/dialogs.js";
import { byId, h } from "moth/dom.js";
import { colourField, numbersField, parseNumbers } from "moth/fields.js";
import { toHex } from "moth/colour.js";
import { valueField } from "moth/workbench/cards.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("../types.d.ts").Parameter} Parameter */

export class Parameters {
  /** @param {GraphModel} model */
  constructor(model) {
    this.model = model;
    this.list = byId("parameters");
    this.isDragging = false;
    model.addEventListener("state", () => this.show());
  }

  show() {
    // A slider in the hand is not taken away; its value is sent when it is let go.
    if (this.isDragging) return;
    const { parameters } = this.model.state.document;
    const variant = this.model.currentVariant;
    const differ = Object.keys(variant?.values ?? {}).length;
    byId("parameters-of").textContent = variant?.name ?? "the graph's defaults";
    byId("parameters-note").textContent = variant
      ? differ
        ? `${differ} differ${differ === 1 ? "s" : ""} from the defaults`
        : "same as the defaults"
      : "";
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const groups = [...new Set(parameters.map((p) => p.group))];
    this.list.replaceChildren(
      ...groups.flatMap((group) => [
        ...(group ? [h("li", { class: "parameter-group eyebrow" }, group)] : []),
        ...parameters.filter((p) => p.group === group).map((p) => this.#row(p)),
      ]),
    );
    if (!parameters.length) {
      this.list.append(
        h(
          "li",
          { class: "empty" },
          "No parameters yet. Select a card and press P beside a value to open it for tuning.",
        ),
      );
    }
    if (focus?.startsWith("parameter.")) {
      /** @type {HTMLElement | null} */ (this.list.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
    }
  }

  /** @param {Parameter} parameter */
  #row(parameter) {
    const { node, input, name } = parameter;
    const isOverridden = !!this.model.currentVariant && parameter.id in this.model.currentVariant.values;
    const reset = h(
      "button",
      {
        type: "button",
        class: `override ${isOverridden ? "on" : ""}`,
        "aria-label": isOverridden ? `${name} is overridden: reset to the default` : `${name} is at the default`,
        title: isOverridden ? "Overridden here. Press to reset to the default." : "At the default",
        disabled: !isOverridden,
        data: { focus: `parameter.${parameter.id}.reset` },
        onclick: () =>
          void this.model.edit({
            op: "set_override",
            variant: this.model.variant,
            parameter: parameter.id,
            value: null,
          }),
      },
      "",
    );
    const wire = this.model.nodes.get(node)?.wires?.[input];
    const isIdle = !!wire || (node === "dock" && !!this.model.nodes.get("dock")?.wires?.surface);
    return h(
      "li",
      {
        data: { parameter: parameter.id },
        class: `${isOverridden ? "overridden" : ""} ${isIdle ? "idle" : ""}`,
        title: isIdle ? "No effect now: a wire brings this value instead" : undefined,
      },
      h(
        "button",
        {
          type: "button",
          class: "parameter-name",
          title: parameter.help || `${name}: edit name and range`,
          "aria-label": `Edit parameter ${name}`,
          onclick: () => this.#edit(parameter),
        },
        name,
      ),
      this.#control(parameter),
      reset,
    );
  }

  /** @param {Parameter} parameter */
  #control(parameter) {
    const { node, input, name, id } = parameter;
    const value = this.model.value(node, input);
    const port = this.model.port(node, input);
    const type = this.model.state.input_types[`${node}.${input}`];
    if (Array.isArray(value) && (port.type === "colour" || (type === "colour" && value.length === 3))) {
      return this.#colour(parameter, value);
    }
    if (Array.isArray(value) && port.type !== "bool" && !(port.type in this.model.settings.stops)) {
      return this.#slider(parameter, value);
    }
    // Toggles, stops and textures are edited as on their card.
    return h(
      "span",
      { class: "parameter-wide" },
      valueField(this.model, node, port, { label: name, key: `parameter.${id}` }),
    );
  }

  /**
   * @param {Parameter} parameter
   * @param {number[]} value
   */
  #colour({ id, name, node, input }, value) {
    const bar = h("span", { class: "colour-bar" });
    bar.style.background = toHex(value);
    const field = colourField({
      value,
      label: name,
      key: `parameter.${id}`,
      drag: (v) => {
        this.isDragging = true;
        bar.style.background = toHex(v);
        this.model.drag(node, input, v);
      },
      keep: (v) => {
        this.isDragging = false;
        void this.model.keep(node, input, v);
      },
    });
    bar.addEventListener("click", () => field.click());
    return [bar, field];
  }

  /**
   * @param {Parameter} parameter
   * @param {number[]} value
   */
  #slider({ id, name, node, input, low, high, step, unit }, value) {
    const range = h("input", {
      type: "range",
      min: Math.min(low, ...value),
      max: Math.max(high, ...value),
      step,
      value: String(value[0]),
      "aria-label": name,
      data: { focus: `parameter.${id}.slider` },
    });
    const field = numbersField({
      value,
      label: `${name}, typed${unit ? ` in ${unit}` : ""}`,
      key: `parameter.${id}`,
      keep: (v) => void this.model.keep(node, input, v),
    });
    const fill = () => {
      const share = (Number(range.value) - Number(range.min)) / (Number(range.max) - Number(range.min));
      range.style.setProperty("--share", `${share * 100}%`);
    };
    fill();
    range.addEventListener("input", () => {
      this.isDragging = true;
      const next = parseNumbers(range.value, value.length) ?? value;
      field.value = next.map((n) => Number(n.toFixed(3))).join(next.length === 2 ? " × " : " ");
      fill();
      this.model.drag(node, input, next);
    });
    range.addEventListener("change", () => {
      this.isDragging = false;
      void this.model.keep(node, input, parseNumbers(range.value, value.length) ?? value);
    });
    return [range, field];
  }

  /** @param {Parameter} parameter */
  #edit(parameter) {
    /** @type {(label: string, value: string, extra?: object) => [HTMLElement, HTMLInputElement]} */
    const line = (label, value, extra = {}) => {
      const input = h("input", { class: "field", value, ...extra });
      return [h("label", { class: "line" }, h("span", {}, label), input), input];
    };
    const number = { type: "number", step: "any", required: true };
    const [nameLine, name] = line("Name", parameter.name, { required: true, maxlength: 80 });
    const [lowLine, low] = line("Low end", String(parameter.low), number);
    const [highLine, high] = line("High end", String(parameter.high), number);
    const [stepLine, step] = line("Step", String(parameter.step), number);
    const [unitLine, unit] = line("Unit", parameter.unit, { maxlength: 12 });
    const [groupLine, group] = line("Group", parameter.group, { maxlength: 40 });
    const [helpLine, help] = line("Help", parameter.help, { maxlength: 200 });
    /** @type {(words: string, by: number) => HTMLElement} */
    const moveButton = (words, by) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          onclick: () => {
            const at = this.model.state.document.parameters.findIndex((p) => p.id === parameter.id) + by;
            if (at >= 0) void this.model.edit({ op: "order_parameter", parameter: parameter.id, at });
          },
        },
        words,
      );
    const close = h(
      "button",
      {
        type: "button",
        class: "button danger",
        onclick: () => {
          dialog.close();
          void this.model.edit({ op: "remove_parameter", parameter: parameter.id });
        },
      },
      "Make it a plain value",
    );
    const form = h(
      "form",
      { method: "dialog" },
      h(
        "p",
        { class: "quiet" },
        `Opens ${this.model.port(parameter.node, parameter.input).name} of ${this.model.nameOf(parameter.node)}.`,
      ),
      nameLine,
      lowLine,
      highLine,
      stepLine,
      unitLine,
      groupLine,
      helpLine,
      h(
        "div",
        { class: "row" },
        h("span", { class: "quiet" }, "Place in the list"),
        moveButton("Up", -1),
        moveButton("Down", 1),
      ),
      h(
        "div",
        { class: "row end" },
        close,
        h("button", { type: "button", class: "button", onclick: () => dialog.close() }, "Cancel"),
        h("button", { class: "button chief" }, "Keep"),
      ),
    );
    form.addEventListener("submit", () => {
      const changed = { name: name.value, low: Number(low.value), high: Number(high.value), step: Number(step.value) };
      const words = { unit: unit.value, group: group.value, help: help.value };
      void this.model.edit({ op: "edit_parameter", parameter: { ...parameter, ...changed, ...words } });
    });
    const dialog = sheet("Parameter", form);
    name.focus();
  }
}
