/** A graph on a stage with its variants and sliders: nothing is edited, and whatever is moved is the page's own. */
import { getJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { fromHex, toHex } from "moth/fields/colour.js";
import { Stage } from "moth/stage/stage.js";
import { GraphModel } from "moth/workbench/model/model.js";
import { shaderValues } from "moth/workbench/model/shader_values.js";
import { componentSliders } from "moth/workbench/panels/component_sliders.js";
import { KeyedStage } from "moth/workbench/stage_tools/keyed_stage.js";
import { Staging } from "moth/workbench/stage_tools/staging.js";

/** @typedef {import("../types.d.ts").Parameter} Parameter */
/** @typedef {import("../types.d.ts").StageSettings} StageSettings */

export class Presentation {
  /**
   * @param {HTMLElement} place
   * @param {number} graph
   * @param {StageSettings} settings with what is known of the graph's own nodes
   * @param {(act: () => Promise<void>) => Promise<void>} [around] what is done around each variant that is shown
   */
  constructor(place, graph, settings, around = (act) => act()) {
    this.around = around;
    /** Variants come to the stage one after the other. @type {Promise<unknown>} */
    this.last = Promise.resolve();
    this.model = new GraphModel(graph, /** @type {any} */ (settings));
    const canvas = h("canvas", { class: "presentation-stage", tabindex: "0", "aria-label": "Stage" });
    this.title = h("h2", {});
    this.variants = h("select", { class: "field", "aria-label": "Variant" });
    this.play = h("button", { type: "button", class: "button small", onclick: () => this.#play() }, "Play");
    this.light = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": "false",
        title: "Dragging turns the light, not the eye",
        onclick: () => this.#turnLight(),
      },
      "Turn the light",
    );
    const again = h(
      "button",
      { type: "button", class: "button small", onclick: () => this.stage.resetView() },
      "First view",
    );
    this.sliders = h("ul", { class: "presentation-sliders", "aria-label": "Parameters" });
    const tools = h("div", { class: "presentation-tools" }, this.variants, this.play, this.light, again);
    place.replaceChildren(canvas, h("aside", { class: "presentation-side" }, this.title, tools, this.sliders));
    this.stage = new Stage(canvas, settings);
    this.staging = new Staging(this.model, this.stage, new KeyedStage(this.model, this.stage));
    /** How many variants are on their way to the stage. */
    this.coming = 0;
    /** Whether numbers of a parameter move together. @type {Map<string, boolean>} */
    this.linked = new Map();
    this.variants.addEventListener("change", () => void this.show(this.variants.value).catch(tell));
    this.model.addEventListener("dragged", () => {
      this.stage.setValues(shaderValues(this.model));
      this.stage.moved();
    });
  }

  /** Where a variant's state is read. @param {string} variant */
  #address(variant) {
    return `${this.model.url}?${new URLSearchParams({ variant })}`;
  }

  /** Shows the defaults or a variant; what was moved goes back to its values. @param {string} [variant] */
  async show(variant = "") {
    this.coming += 1;
    const shown = this.last.then(() => this.around(() => this.#stand(variant)));
    this.last = shown.catch(() => undefined);
    await shown.finally(() => (this.coming -= 1));
  }

  /** @param {string} variant */
  async #stand(variant) {
    const { model, stage } = this;
    const state = await getJson(this.#address(variant));
    model.live.clear();
    model.take(state);
    this.#draw();
    await stage.setForm(state.document.form, state.mesh);
    await this.staging.stand(state);
    await stage.setShader(state.shader, shaderValues(model));
  }

  /** Shows each variant once, so that whatever they need has been asked for, and then the one that was there. */
  async visitAll() {
    const now = this.model.variant;
    for (const { id } of this.model.state.document.variants) if (id !== now) await this.show(id);
    if (now) await this.show("");
    await this.show(now);
  }

  #play() {
    this.stage.setPlaying(!this.stage.isPlaying);
    this.play.textContent = this.stage.isPlaying ? "Pause" : "Play";
  }

  #turnLight() {
    this.stage.lightMode = !this.stage.lightMode;
    this.light.setAttribute("aria-pressed", String(this.stage.lightMode));
  }

  #draw() {
    const { document: graph } = this.model.state;
    this.title.textContent = graph.title;
    const options = [{ id: "", name: "Defaults" }, ...graph.variants];
    this.variants.replaceChildren(
      ...options.map(({ id, name }) => h("option", { value: id, selected: id === this.model.variant }, name)),
    );
    this.variants.hidden = options.length === 1;
    const groups = [...new Set(graph.parameters.map(({ group }) => group))];
    this.sliders.replaceChildren(
      ...groups.flatMap((group) => [
        ...(group ? [h("li", { class: "eyebrow" }, group)] : []),
        ...graph.parameters.filter((one) => one.group === group).flatMap((one) => this.#row(one)),
      ]),
    );
  }

  /** A row for what can be moved without another shader. @param {Parameter} parameter */
  #row(parameter) {
    const { node, input, name, help, unit } = parameter;
    const { model } = this;
    const port = model.port(node, input);
    const value = model.value(node, input);
    if (!Array.isArray(value) || port.reshapes || port.type in model.settings.stops) return [];
    const type = model.state.input_types[`${node}.${input}`];
    const isColour = port.type === "colour" || (type === "colour" && value.length === 3);
    const words = unit ? `${name} (${unit})` : name;
    return [
      h(
        "li",
        { title: help },
        h("span", {}, words),
        isColour ? this.#colour(parameter, value) : this.#numbers(parameter, value),
      ),
    ];
  }

  /** @param {Parameter} parameter @param {number[]} value */
  #colour({ node, input, name }, value) {
    const field = h("input", { type: "color", value: toHex(value).toLowerCase(), "aria-label": name });
    field.addEventListener("input", () => this.model.drag(node, input, fromHex(field.value) ?? value));
    return field;
  }

  /** @param {Parameter} parameter @param {number[]} value */
  #numbers({ id, node, input, name, low, high, step }, value) {
    const drag = (/** @type {number[]} */ numbers) => this.model.drag(node, input, numbers);
    const isLinked = this.linked.get(id) ?? false;
    const link = (/** @type {boolean} */ linked) => void this.linked.set(id, linked);
    return componentSliders({ name, key: id, value, low, high, step, isLinked, link, drag, keep: drag });
  }
}
