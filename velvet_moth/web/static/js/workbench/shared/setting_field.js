/** The field of one choice that is settled when the shader is built. */
import { h } from "moth/base/dom.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */

/**
 * @param {GraphModel} model
 * @param {string} id
 * @param {import("../../types.d.ts").Setting} setting
 */
export function settingField(model, id, setting) {
  const now = model.nodes.get(id)?.settings?.[setting.key] ?? setting.default;
  const options = setting.choices.length
    ? setting.choices
    : Array.from({ length: setting.high - setting.low + 1 }, (_, i) => setting.low + i);
  const select = h(
    "select",
    {
      class: "field",
      data: { focus: `${id}.${setting.key}` },
      "aria-label": `${setting.name} of ${model.nameOf(id)}`,
    },
    options.map((o) => h("option", { value: String(o), selected: o === now }, String(o))),
  );
  select.addEventListener("change", () => {
    const value = setting.choices.length ? select.value : Number(select.value);
    void model.edit({ op: "set_setting", node: id, setting: setting.key, value });
  });
  return h("label", { class: "setting", title: setting.words }, h("span", {}, setting.name), select);
}
