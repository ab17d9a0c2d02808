/** The text of the shaders on the stage, to be read and copied. */
import { getJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("../../types.d.ts").ShaderState} ShaderState */

/** What can be read, and what is asked of the server for it. @type {[string, "fragment" | "vertex"][]} */
const STAGES = [
  ["Pixels", "fragment"],
  ["Vertices", "vertex"],
];
/** @type {[string, string][]} */
const VALUES = [
  ["Parameters outside, other values as constants", "true"],
  ["Every value outside", "false"],
];

/** @param {import("../model/model.js").GraphModel} model */
export function showShaderText(model) {
  const text = h("pre", { class: "shader-text mono", tabindex: 0, "aria-label": "Shader text" });
  const facts = h("p", { class: "quiet" });
  const stage = select("Shader", STAGES);
  const values = select("Values", VALUES);
  const copy = h("button", { class: "button", type: "button" }, "Copy");
  let asked = 0;
  const show = async () => {
    asked += 1;
    const mine = asked;
    const query = new URLSearchParams({ variant: model.variant, folded: values.value });
    const found = /** @type {ShaderState} */ (await getJson(`${model.url}/shader?${query}`));
    // Meanwhile something else may have been chosen.
    if (mine !== asked) return;
    const shown = found[/** @type {"fragment" | "vertex"} */ (stage.value)] ?? "";
    text.textContent = shown;
    const own = found.samplers.filter(({ key }) => key.length).length;
    facts.textContent =
      `${shown.split("\n").length} lines of GLSL ES 3.00 · ${found.floats / 4} vectors of values · ` +
      `${own} texture${own === 1 ? "" : "s"} of the graph and ${found.samplers.length - own} of the stage`;
  };
  for (const choice of [stage, values]) choice.addEventListener("change", () => void show().catch(tell));
  copy.addEventListener("click", () => {
    navigator.clipboard.writeText(text.textContent ?? "").then(
      () => notice("The shader text is on the clipboard."),
      () => notice("This browser keeps its clipboard to itself.", { mend: "Select the text and copy it with Ctrl+C." }),
    );
  });
  const close = h("button", { class: "button chief", type: "button", onclick: () => dialog.close() }, "Close");
  const dialog = sheet(
    `Shader of ${model.state.document.title}`,
    h("div", { class: "row" }, stage, values, h("span", { class: "flex-1" }), copy),
    facts,
    text,
    h("div", { class: "row end" }, close),
  );
  dialog.classList.add("shader-sheet");
  void show().catch(tell);
}

/**
 * @param {string} label
 * @param {[string, string][]} choices
 */
function select(label, choices) {
  return h(
    "select",
    { class: "field", "aria-label": label },
    choices.map(([words, value]) => h("option", { value }, words)),
  );
}
