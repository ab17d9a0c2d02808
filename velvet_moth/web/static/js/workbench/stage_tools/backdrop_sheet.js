/** The surfaces of the backdrop's parts: graphs of the project in place of its own. */
import { getJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/** @typedef {import("../../types.d.ts").BackdropMaterial} BackdropMaterial */
/** @typedef {{ graph: string, title: string, variants: { id: string, name: string }[] }} Choosable */

/**
 * Opens a sheet with a row for each part; a choice holds at once and can be undone.
 * @param {import("../model/model.js").GraphModel} model
 */
export async function backdropSheet(model) {
  const { backdrop } = model.state.document;
  /** @type {{ graphs: Choosable[] }} */
  const { graphs } = await getJson(`${model.url}/backdrop_choices`);
  const rows = h("div", { class: "part-surfaces" });
  const draw = () => {
    const held = document.activeElement?.getAttribute("aria-label");
    rows.replaceChildren(
      ...Object.entries(model.settings.backdrop_parts[backdrop]).map(([key, name]) =>
        rowOf(model, `${backdrop}.${key}`, name, graphs),
      ),
    );
    /** @type {HTMLElement[]} */ ([...rows.querySelectorAll("select")])
      .find((choice) => choice.getAttribute("aria-label") === held)
      ?.focus();
  };
  draw();
  const dialog = sheet(
    "Surfaces of the backdrop",
    h("p", { class: "quiet" }, "A graph chosen here follows every change that is made to it. It is drawn as a solid."),
    rows,
    h(
      "div",
      { class: "row end" },
      h("button", { class: "button chief", type: "button", onclick: () => dialog.close() }, "Close"),
    ),
  );
  model.addEventListener("state", draw);
  dialog.addEventListener("close", () => model.removeEventListener("state", draw));
}

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {string} part
 * @param {string} name
 * @param {Choosable[]} graphs
 */
function rowOf(model, part, name, graphs) {
  const materials = model.state.document.backdrop_materials;
  const now = materials.find((/** @type {BackdropMaterial} */ one) => one.part === part);
  const chosen = graphs.find(({ graph }) => graph === now?.graph);
  /** @param {string} graph @param {string} variant */
  const choose = (graph, variant) => {
    const others = materials.filter((/** @type {BackdropMaterial} */ one) => one.part !== part);
    void model.edit({ op: "set_backdrop_materials", value: graph ? [...others, { part, graph, variant }] : others });
  };
  const graph = h(
    "select",
    { class: "field", "aria-label": `Surface of ${name}`, onchange: () => choose(graph.value, "") },
    h("option", { value: "" }, "Its own surface"),
    now && !chosen ? h("option", { value: now.graph, selected: true }, "A graph that is gone") : "",
    graphs.map(({ graph: key, title }) => h("option", { value: key, selected: key === now?.graph }, title)),
  );
  const variant = h(
    "select",
    {
      class: "field",
      "aria-label": `Variant of ${name}`,
      hidden: !chosen?.variants.length,
      onchange: () => choose(graph.value, variant.value),
    },
    h("option", { value: "" }, "Defaults"),
    (chosen?.variants ?? []).map(({ id, name: title }) =>
      h("option", { value: id, selected: id === now?.variant }, title),
    ),
  );
  return h("div", { class: "part-surface" }, h("span", {}, name), graph, variant);
}
