/** What a block model is besides its blocks: palette, side of a block, its mesh; and what is wrong with it. */
import { postJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("./block_model.js").BlockModel} BlockModel */

/**
 * @param {BlockModel} opened
 * @param {import("../types.d.ts").PaletteInfo[]} palettes
 * @param {() => HTMLElement} head its name, with what can be done to the whole
 * @returns {(HTMLElement | string)[]}
 */
export function aboutModel(opened, palettes, head) {
  const { size, palette: chosen, problem } = opened.state;
  return [
    head(),
    h(
      "label",
      { class: "row" },
      h("span", {}, "Palette"),
      h(
        "select",
        {
          class: "field",
          onchange: (/** @type {Event} */ event) =>
            void opened.edit({ op: "set_palette", palette: /** @type {HTMLSelectElement} */ (event.target).value }),
        },
        h("option", { value: "" }, "none"),
        ...palettes.map((one) => h("option", { value: one.id, selected: one.id === chosen }, one.name)),
      ),
    ),
    h(
      "label",
      { class: "row" },
      h("span", {}, "Side of a block"),
      h("input", {
        class: "field",
        type: "number",
        min: 0.001,
        max: 10,
        step: 0.01,
        value: String(Number(size.toPrecision(5))),
        onchange: (/** @type {Event} */ event) =>
          void opened.edit({
            op: "set_block_size",
            size: /** @type {HTMLInputElement} */ (event.target).valueAsNumber || size,
          }),
      }),
      h("span", { class: "quiet" }, "m"),
    ),
    h(
      "label",
      { class: "check" },
      h("input", {
        type: "checkbox",
        checked: !opened.state.merged,
        onchange: (/** @type {Event} */ event) =>
          void opened.edit({ op: "set_merged", merged: !(/** @type {HTMLInputElement} */ (event.target).checked) }),
      }),
      " Corners for every face, for vertex data",
    ),
    h(
      "div",
      { class: "tool-group" },
      h(
        "button",
        { type: "button", class: "button small", onclick: () => void useInGraph(opened) },
        "Begin a graph on it",
      ),
      opened.state.mesh
        ? h("a", { class: "button small", href: `/meshes?m=${opened.state.mesh}` }, "Its mesh")
        : h(
            "button",
            { type: "button", class: "button small", onclick: () => void keepMesh(opened) },
            "Keep as a mesh",
          ),
    ),
    problem ? h("p", { class: "verdict" }, problem) : "",
  ];
}

/** Keeps the surface as a mesh, which follows from then on. @param {BlockModel} opened */
async function keepMesh(opened) {
  try {
    await postJson(`${opened.url}/mesh`);
    await opened.load();
    notice("The mesh follows the model from now on. Vertex data is baked on it among the meshes.");
    return true;
  } catch (error) {
    tell(error);
    return false;
  }
}

/** @param {BlockModel} opened */
async function useInGraph(opened) {
  if (!opened.state.mesh && !(await keepMesh(opened))) return;
  try {
    const { id } = await postJson(`${opened.url}/graph`);
    location.assign(`/graphs/${id}`);
  } catch (error) {
    tell(error);
  }
}
