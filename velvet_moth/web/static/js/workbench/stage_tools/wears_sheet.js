/** What the parts of the backdrop wear: graphs of the project in place of its own surface. */
import { getJson } from "moth/api.js";
import { sheet } from "moth/dialogs.js";
import { h } from "moth/dom.js";

/** @typedef {import("../../types.d.ts").Wear} Wear */
/** @typedef {{ graph: string, title: string, variants: { id: string, name: string }[] }} Wearable */

/**
 * Opens a sheet with a row for each part; a choice holds at once and can be undone.
 * @param {import("../model/model.js").GraphModel} model
 */
export async function wearsSheet(model) {
  const { backdrop } = model.state.document;
  /** @type {{ graphs: Wearable[] }} */
  const { graphs } = await getJson(`${model.url}/wearable`);
  const rows = h("div", { class: "wears" });
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
    "What the backdrop wears",
    h("p", { class: "quiet" }, "A graph worn here follows every change that is made to it. It is worn as a solid."),
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
 * @param {Wearable[]} graphs
 */
function rowOf(model, part, name, graphs) {
  const { wears } = model.state.document;
  const now = wears.find((/** @type {Wear} */ wear) => wear.part === part);
  const worn = graphs.find(({ graph }) => graph === now?.graph);
  /** @param {string} graph @param {string} variant */
  const choose = (graph, variant) => {
    const others = wears.filter((/** @type {Wear} */ wear) => wear.part !== part);
    void model.edit({ op: "set_wears", wears: graph ? [...others, { part, graph, variant }] : others });
  };
  const graph = h(
    "select",
    { class: "field", "aria-label": `${name} wears`, onchange: () => choose(graph.value, "") },
    h("option", { value: "" }, "Its own surface"),
    now && !worn ? h("option", { value: now.graph, selected: true }, "A graph that is gone") : "",
    graphs.map(({ graph: key, title }) => h("option", { value: key, selected: key === now?.graph }, title)),
  );
  const variant = h(
    "select",
    {
      class: "field",
      "aria-label": `Variant of ${name}`,
      hidden: !worn?.variants.length,
      onchange: () => choose(graph.value, variant.value),
    },
    h("option", { value: "" }, "Defaults"),
    (worn?.variants ?? []).map(({ id, name: title }) =>
      h("option", { value: id, selected: id === now?.variant }, title),
    ),
  );
  return h("div", { class: "wear" }, h("span", {}, name), graph, variant);
}
