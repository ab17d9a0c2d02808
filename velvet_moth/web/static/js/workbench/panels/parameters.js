/** The parameters of the current variant: sliders and colours, with what is overridden marked. */
import { byId, h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField, valueText } from "moth/fields/fields.js";
import { toHex } from "moth/fields/colour.js";
import { carry } from "moth/fields/carry.js";
import { keyMark, showMark } from "moth/workbench/shared/key_mark.js";
import { valueField } from "moth/workbench/graph/cards/cards.js";
import { componentSliders } from "moth/workbench/panels/component_sliders.js";
import { parameterSheet, usesOf } from "moth/workbench/panels/parameter_sheet.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../../types.d.ts").Parameter} Parameter */

/** While time runs, keyed values are shown so often, in milliseconds. */
const OFTEN = 150;

export class Parameters {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    const { model } = pane;
    this.model = model;
    this.list = byId("parameters");
    this.isDragging = false;
    /** Whether the numbers of a parameter move together, where somebody chose. @type {Map<string, boolean>} */
    this.linked = new Map();
    model.addEventListener("state", () => this.show());
    model.addEventListener("time", () => this.#pass());
    model.addEventListener("dragged", (event) => this.#warn(/** @type {CustomEvent} */ (event).detail));
    /** When values were last shown while time runs, in milliseconds. */
    this.drawn = 0;
    this.later = 0;
  }

  show() {
    // A slider in the hand is not taken away; its value is sent when it is let go.
    if (this.isDragging) return;
    const { parameters } = this.model.state.document;
    const variant = this.model.currentVariant;
    const differ = new Set([...Object.keys(variant?.values ?? {}), ...Object.keys(variant?.tracks ?? {})]).size;
    byId("parameters-of").textContent = variant?.name ?? "the graph's defaults";
    const base = this.model.state.document.variants.find((v) => v.id === variant?.base)?.name ?? "the defaults";
    byId("parameters-note").textContent = variant
      ? differ
        ? `${differ} differ${differ === 1 ? "s" : ""} from ${base}`
        : `same as ${base}`
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
        h("li", { class: "empty" }, "No parameters yet. Select a card and press ◇ beside a value to make it one."),
      );
    }
    if (focus?.startsWith("parameter.")) {
      /** @type {HTMLElement | null} */ (this.list.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
    }
  }

  /** @param {Parameter} parameter */
  #row(parameter) {
    const { node, input, name } = parameter;
    const isKeyed = !!this.model.keys.stateOf(parameter.id);
    const { values = {}, tracks = {} } = this.model.currentVariant ?? {};
    const isOverridden = parameter.id in values || parameter.id in tracks;
    const reset = h(
      "button",
      {
        type: "button",
        class: `override ${isOverridden ? "on" : ""}`,
        "aria-label": isOverridden ? `${name} is overridden: reset to the default` : `${name} is at the default`,
        title: isOverridden ? "Overridden here. Press to reset to the default." : "At the default",
        disabled: !isOverridden,
        data: { focus: `parameter.${parameter.id}.reset` },
        onclick: () => this.#reset(parameter),
      },
      "",
    );
    const wire = this.model.nodes.get(node)?.wires?.[input];
    const isIdle = !!wire || (node === "dock" && !!this.model.nodes.get("dock")?.wires?.surface);
    const called = h(
      "button",
      {
        type: "button",
        class: "parameter-name",
        title: `${parameter.help || name}\n${this.#usesInWords(parameter)}\nPress to edit; drag onto an input to feed it too, or up and down.`,
        "aria-label": `Edit parameter ${name}`,
        data: { focus: `parameter.${parameter.id}.name` },
        onclick: () => parameterSheet(this.pane, parameter),
      },
      name,
    );
    called.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      called.focus();
      carry(event, name, (element, now) => this.#over(parameter, element, now));
    });
    const uses = usesOf(this.model, parameter).map((end) => end.node);
    called.addEventListener("pointerenter", () => this.pane.point([node, ...uses]));
    called.addEventListener("pointerleave", () => this.pane.point([]));
    const row = h(
      "li",
      {
        data: { parameter: parameter.id },
        class: `${isOverridden ? "overridden" : ""} ${isIdle ? "idle" : ""} ${isKeyed ? "keyed" : ""}`,
        title: isIdle ? "No effect now: a wire brings this value instead" : undefined,
      },
      called,
      this.#control(parameter),
      this.model.keys.isPlayed
        ? keyMark(this.model, {
            target: parameter.id,
            name,
            value: () => this.model.value(node, input),
            inSteps: this.model.port(node, input).in_steps,
            focus: `parameter.${parameter.id}.key`,
          })
        : h("span", {}),
      reset,
    );
    // What a change of a keyed value does is said as soon as it has the keyboard.
    if (isKeyed) row.addEventListener("focusin", () => this.#warn(`${node}.${input}`));
    return row;
  }

  /** Takes away what the variant has of its own: its value and its keys. @param {Parameter} parameter */
  #reset({ id, name }) {
    const { variant, currentVariant } = this.model;
    /** @type {import("../../types.d.ts").Operation[]} */
    const steps = [];
    if (currentVariant?.tracks?.[id]) steps.push({ op: "set_track", target: id, track: null, variant });
    if (currentVariant && id in currentVariant.values)
      steps.push({ op: "set_override", variant, parameter: id, value: null });
    void this.model.editAll(steps, `reset ${name} of ${currentVariant?.name}`);
  }

  /** Another moment is shown: what is keyed has other values. */
  #pass() {
    if (this.isDragging) return;
    const { keys, state } = this.model;
    clearTimeout(this.later);
    const wait = this.drawn + OFTEN - performance.now();
    if (wait > 0) {
      this.later = window.setTimeout(() => this.#pass(), wait);
      return;
    }
    this.drawn = performance.now();
    for (const parameter of state.document.parameters) {
      const row = this.list.querySelector(`[data-parameter="${CSS.escape(parameter.id)}"]`);
      if (!row) continue;
      const mark = row.querySelector(".key-mark");
      if (mark) showMark(this.model, mark);
      if (keys.stateOf(parameter.id) && !row.contains(document.activeElement)) row.replaceWith(this.#row(parameter));
    }
  }

  /** Says what letting go of a value does that is keyed. @param {string} place node and input */
  #warn(place) {
    const [node, input] = place.split(".");
    const parameter = this.model.parameterAt(node, input);
    if (!parameter || !this.model.keys.stateOf(parameter.id)) return;
    byId("parameters-note").textContent = `${parameter.name}: ${this.model.keys.wordsFor(parameter.id)}`;
  }

  /** @param {Parameter} parameter */
  #usesInWords(parameter) {
    const uses = usesOf(this.model, parameter).map(
      ({ node, input }) =>
        `${this.model.port(node, input).name} of ${node === "dock" ? "the dock" : this.model.nameOf(node)}`,
    );
    return uses.length ? `Feeds ${uses.join(", ")}.` : "Feeds nothing yet.";
  }

  /**
   * What letting go of a carried parameter would do.
   * @param {Parameter} parameter
   * @param {Element | null} element
   * @param {PointerEvent} at
   * @returns {import("../../fields/carry.js").Drop | null}
   */
  #over(parameter, element, at) {
    const { model } = this;
    const other = /** @type {HTMLElement | null} */ (element?.closest("#parameters li[data-parameter]") ?? null);
    if (other) return this.#beside(parameter, other, at);
    const row = /** @type {HTMLElement | null} */ (element?.closest("[data-input]") ?? null);
    const { node = "", input = "" } = row?.dataset ?? {};
    if (row && model.port(node, input)?.wirable) {
      const of = node === "dock" ? "of the dock" : `of ${model.nameOf(node)}`;
      const act = () => void model.craft({ craft: "share_parameter", parameter: parameter.id, node, input });
      return { words: `feeds ${model.port(node, input).name} ${of} too`, act, onto: row };
    }
    if (row || element?.closest(".card, .over-pane") || !element?.closest("#graph-pane")) return null;
    const place = this.pane.view.toWorld(at.clientX, at.clientY).map(Math.round);
    const act = () => void model.craft({ craft: "share_parameter", parameter: parameter.id, place });
    return { words: "on a card of its own", act };
  }

  /**
   * @param {Parameter} parameter
   * @param {HTMLElement} row
   * @param {PointerEvent} at
   */
  #beside(parameter, row, at) {
    const all = this.model.state.document.parameters;
    const other = all.find((p) => p.id === row.dataset.parameter);
    if (!other || other.id === parameter.id) return null;
    const box = row.getBoundingClientRect();
    const isBelow = at.clientY > box.top + box.height / 2;
    const rest = all.filter((p) => p.id !== parameter.id);
    const act = () => {
      /** @type {import("../../types.d.ts").Operation[]} */
      const steps = [{ op: "order_parameter", parameter: parameter.id, at: rest.indexOf(other) + Number(isBelow) }];
      if (other.group !== parameter.group) {
        steps.push({ op: "edit_parameter", parameter: { ...parameter, group: other.group } });
      }
      void this.model.editAll(steps, `moved parameter ${parameter.name}`);
    };
    return { words: `${isBelow ? "below" : "above"} ${other.name}`, act, onto: row };
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
    const field = numbersField({
      value,
      label: `${name}, typed${unit ? ` in ${unit}` : ""}`,
      key: `parameter.${id}`,
      step,
      drag: (v) => {
        this.isDragging = true;
        this.model.drag(node, input, v);
      },
      keep: (v) => {
        this.isDragging = false;
        void this.model.keep(node, input, v);
      },
    });
    const sliders = componentSliders({
      name,
      key: `parameter.${id}.slider`,
      value,
      low,
      high,
      step,
      isLinked: this.linked.get(id) ?? value.every((number) => number === value[0]),
      link: (isLinked) => this.linked.set(id, isLinked),
      drag: (v) => {
        this.isDragging = true;
        field.value = valueText(v);
        this.model.drag(node, input, v);
      },
      keep: (v) => {
        this.isDragging = false;
        void this.model.keep(node, input, v);
      },
    });
    return [sliders, field];
  }
}
