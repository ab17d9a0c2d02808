/** What both rooms show of a layer of a step: a button that looks at it, and the name of what comes of it. */
import { h } from "moth/base/dom.js";

/** @typedef {import("../types.d.ts").Output} Output */

/**
 * @param {import("./stack_view.js").StackView<any, any>} view
 * @param {import("../types.d.ts").StackStepState} step
 * @param {string} layer
 */
export function seeButton(view, step, layer) {
  // Where no layer was chosen, the first one is looked at.
  const seen = view.layer || view.kinds.get(step.step)?.layers[0];
  return h(
    "button",
    {
      type: "button",
      class: "button small",
      "aria-pressed": String(seen === layer),
      data: { focus: `${step.id} ${layer} see` },
      onclick: () => view.choose(step.id, layer),
    },
    layer.replaceAll("_", " "),
  );
}

/**
 * @param {import("./stack_view.js").StackView<any, any>} view
 * @param {Output} output
 * @param {string} label
 */
export function outputName(view, { id, name, depth, step, layer }, label) {
  const field = h("input", {
    class: "field",
    value: name,
    maxlength: 80,
    "aria-label": label,
    data: { focus: `${step} ${layer} name` },
  });
  field.addEventListener("change", () => {
    if (field.value.trim()) void view.edit({ op: "edit_output", id, name: field.value, depth: depth ?? "" });
    else field.value = name;
  });
  return field;
}
