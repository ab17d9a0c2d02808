/** What an output of a node runs over, and what the node costs: asked for when its slip opens. */
import { getJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { BEYOND, numberText } from "moth/fields/fields.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../../types.d.ts").Analysis} Analysis */
/** @typedef {import("../../../types.d.ts").Range} Range */

/** So long a slip rests before its range and cost are asked for, in milliseconds: edits often follow each other. */
const STAY = 250;

/** Looks of the stage that the analysis samples from; set by the page. @type {{ query: () => Record<string, string> }} */
export const eye = { query: () => ({}) };

/** @param {number | null} value @param {boolean} low */
const end = (value, low) => (value === null ? (low ? "−∞" : "∞") : numberText(value).replace("-", "−"));

/** @param {[number | null, number | null]} range */
const span = ([low, high]) =>
  low === high && low !== null ? end(low, true) : `${end(low, true)} … ${end(high, false)}`;

/** @param {import("../../../types.d.ts").Cost} cost */
export const costText = (cost) => {
  const reads = cost.reads ? ` · ${cost.reads} read${cost.reads === 1 ? "" : "s"}` : "";
  return `${cost.operations} op${cost.operations === 1 ? "" : "s"}${reads}`;
};

/**
 * @param {GraphModel} model
 * @param {string} id
 */
export function analysisPart(model, id) {
  const box = h("dl", { class: "analysis", "aria-label": `Range and cost of ${model.nameOf(id)}` });
  const query = new URLSearchParams({ node: id, variant: model.variant, ...eye.query() });
  const names = new Map(model.typeOf(id).outputs.map((o) => [o.key, o.name]));
  new Promise((resolve) => setTimeout(resolve, STAY))
    .then(() => (box.isConnected ? getJson(`${model.url}/analysis?${query}`) : Promise.reject(new Error("replaced"))))
    .then((/** @type {Analysis} */ found) => {
      const several = names.size > 1;
      const rows = Object.entries(found.ranges).map(([key, range]) =>
        rangeRow(several ? (names.get(key) ?? key) : "Range", range),
      );
      const { operations, reads } = found.saved;
      const saves = operations > 0 || reads > 0 ? `; without it ${costText(found.saved)} less` : "; free to keep";
      const cost = h("div", {}, h("dt", {}, "Cost"), h("dd", { class: "mono" }, costText(found.cost) + saves));
      const rates = new Set(Object.values(found.ranges).map((r) => r.rate));
      const rate = rates.size ? h("div", {}, h("dt", {}, "Known"), h("dd", {}, [...rates].join("; "))) : null;
      box.replaceChildren(...rows, .../** @type {Node[]} */ ([rate, cost].filter(Boolean)));
      box.dataset.ready = "true";
    })
    // A slip that has changed meanwhile asks again by itself.
    .catch(() => box.replaceChildren());
  return box;
}

/** What was seen has no open ends: a number that is not there has overflowed. @param {[number | null, number | null]} range */
const seenSpan = (range) => (range.includes(null) ? BEYOND : span(range));

/**
 * @param {string} name
 * @param {Range} range
 */
function rangeRow(name, { proved, seen }) {
  return h(
    "div",
    {},
    h("dt", {}, name),
    h(
      "dd",
      { class: "mono" },
      seen
        ? h("span", { title: "What it runs over on the stage's form, as it stands now" }, seenSpan(seen))
        : "not seen",
      h("small", { title: "No value can ever lie outside" }, ` proved ${span(proved)}`),
    ),
  );
}
