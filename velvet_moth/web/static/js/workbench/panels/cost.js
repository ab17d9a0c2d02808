/** What the graph costs: by sort, channel and node, and what would be saved. */
import { getJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { costText } from "moth/workbench/graph/slips/analysis_part.js";

/** @typedef {import("../../types.d.ts").CostReport} CostReport */
/** @typedef {import("../../types.d.ts").Cost} Cost */

/**
 * @param {string} title
 * @param {[string, Cost, string?][]} rows
 * @param {number} most
 */
function table(title, rows, most) {
  if (!rows.length) return null;
  return h(
    "section",
    {},
    h("h3", { class: "eyebrow" }, title),
    h(
      "table",
      { class: "costs" },
      h(
        "tbody",
        {},
        rows.map(([name, cost, note]) => {
          const bar = h("span", { class: "cost-bar" });
          bar.style.width = `${Math.max(0, (cost.operations / Math.max(most, 1)) * 100)}%`;
          return h(
            "tr",
            {},
            h("th", { scope: "row" }, name, note ? h("small", { class: "quiet" }, ` ${note}`) : null),
            h("td", { class: "mono" }, costText(cost)),
            h("td", { class: "cost-share", "aria-hidden": "true" }, bar),
          );
        }),
      ),
    ),
  );
}

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {string} form
 */
export async function showCost(model, form) {
  const query = new URLSearchParams({ variant: model.variant, form });
  /** @type {CostReport} */
  const found = await getJson(`${model.url}/cost?${query}`);
  const channelName = new Map(model.typeOf("dock").inputs.map((p) => [p.key, p.name]));
  const classes = Object.entries(found.pixel.classes)
    .filter(([, count]) => count)
    .map(([sort, count]) => `${count} ${sort}`);
  const most = found.pixel.operations;
  const metres = (/** @type {number[][]} */ [low, high]) =>
    low.map((c, i) => `${c.toFixed(2)} … ${high[i].toFixed(2)}`).join(" · ");
  sheet(
    "Cost",
    h("p", { class: "quiet" }, "The graph's own nodes; the lighting comes on top and is the same for every graph."),
    table(
      "In all",
      [
        ["For each pixel", found.pixel, classes.join(", ")],
        ["For each vertex", found.vertex],
      ],
      most,
    ),
    table(
      "By channel, what is shared counted in each",
      Object.entries(found.channels).map(([key, cost]) => [channelName.get(key) ?? key, cost]),
      most,
    ),
    table(
      "By node, dearest first",
      found.nodes.slice(0, 12).map(({ name, cost }) => [name, cost]),
      most,
    ),
    table(
      "Saved if a toggle were turned",
      found.toggles.map(({ name, saved }) => [name, saved]),
      most,
    ),
    found.bounds
      ? h(
          "section",
          {},
          h("h3", { class: "eyebrow" }, "Room the moved form takes, metres along x, y, z"),
          h("p", { class: "mono" }, `now ${metres(found.bounds.seen)}`),
          h("p", { class: "mono" }, `never beyond ${metres(found.bounds.proved)}`),
        )
      : null,
  ).classList.add("cost-sheet");
}
