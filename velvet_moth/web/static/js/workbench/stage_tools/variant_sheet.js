/** What is said of a variant, and values that go from one to another. */
import { answers, menu, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").Variant} Variant */

/**
 * Asks what a variant is based on, and for a note.
 * @param {GraphModel} model
 * @param {Variant} variant
 */
export function describeVariant(model, variant) {
  const others = model.state.document.variants.filter(({ id }) => id !== variant.id);
  const option = (/** @type {string} */ value, /** @type {string} */ words) =>
    h("option", { value, selected: value === variant.base }, words);
  const base = h(
    "select",
    { class: "field" },
    option("", "the graph's defaults"),
    others.map(({ id, name }) => option(id, name)),
  );
  const note = h("textarea", { class: "field w-full", rows: 4, maxlength: 1000 }, variant.note);
  const form = h(
    "form",
    { method: "dialog" },
    h("label", { class: "line" }, h("span", {}, "Based on"), base),
    h("label", { class: "line" }, h("span", {}, "Note"), note),
    answers("Keep"),
  );
  form.addEventListener("submit", () => {
    if (base.value === variant.base && note.value.trim() === variant.note) return;
    void model.edit({ op: "describe_variant", variant: variant.id, base: base.value, note: note.value });
  });
  sheet(`Variant ${variant.name}`, form);
  note.focus();
}

/**
 * Lets one choose whose values a variant takes: all in which they differ.
 * @param {GraphModel} model
 * @param {HTMLElement} anchor
 * @param {Variant} variant
 */
export function takeValues(model, anchor, variant) {
  const { parameters, variants } = model.state.document;
  const others = [{ id: "", name: "the defaults" }, ...variants.filter(({ id }) => id !== variant.id)];
  const take = (/** @type {string} */ from, /** @type {string} */ name) => {
    const steps = parameters.flatMap(({ id: parameter, node, input }) => {
      const [value, own] = [from, variant.id].map((one) => model.value(node, input, one));
      const isSame = JSON.stringify(value) === JSON.stringify(own);
      return isSame ? [] : [/** @type {const} */ ({ op: "set_override", variant: variant.id, parameter, value })];
    });
    if (steps.length) void model.editAll(steps, `gave ${variant.name} the values of ${name}`);
  };
  menu(
    anchor,
    others.map(({ id, name }) => [`from ${name}`, () => take(id, name)]),
  );
}
