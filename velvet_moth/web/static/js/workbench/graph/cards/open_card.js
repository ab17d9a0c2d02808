/** The lower part of a chosen card: settings, help, what it runs over and costs, what can be done with it. */
import { getJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { BEYOND, numberText } from "moth/fields/fields.js";
import { addressInside } from "moth/workbench/shared/motif_place.js";
import { readingParts } from "moth/workbench/graph/cards/reading_part.js";
import { settingField } from "moth/workbench/shared/setting_field.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../../types.d.ts").Analysis} Analysis */
/** @typedef {import("../../../types.d.ts").Range} Range */

/** So long a card is open before its range and cost are asked for, in milliseconds. */
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
 * Ranges and cost of a node, asked for when its card opens.
 * @param {GraphModel} model
 * @param {string} id
 */
function analysisPart(model, id) {
  const box = h("dl", { class: "analysis", "aria-label": `Range and cost of ${model.nameOf(id)}` });
  const query = new URLSearchParams({ node: id, variant: model.variant, ...eye.query() });
  const names = new Map(model.typeOf(id).outputs.map((o) => [o.key, o.name]));
  // Only for a card that stays open: many are passed by on the way to another.
  new Promise((resolve) => setTimeout(resolve, STAY))
    .then(() => (box.isConnected ? getJson(`${model.url}/analysis?${query}`) : Promise.reject(new Error("passed by"))))
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
    // A card that has changed meanwhile asks again by itself.
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

/**
 * What can be done with a use of a motif.
 * @param {GraphModel} model
 * @param {string} id
 */
function motifPart(model, id) {
  const type = model.nodes.get(id)?.type ?? "";
  if (!type.startsWith("motif_")) return null;
  return h(
    "div",
    { class: "looks" },
    h("a", { class: "button small", href: addressInside(type, model.state.id) }, "Open motif"),
    h(
      "button",
      {
        type: "button",
        class: "button small",
        data: { focus: `${id}.unpack` },
        onclick: () => void model.ask("unpack", { node: id }),
      },
      "Unpack",
    ),
  );
}

/**
 * @param {GraphModel} model
 * @param {string} id
 */
export function openPart(model, id) {
  const type = model.typeOf(id);
  const node = model.nodes.get(id);
  const label = h("input", {
    class: "field w-full",
    value: node?.label ?? "",
    placeholder: type.name,
    maxlength: 80,
    "aria-label": `Name of ${type.name}`,
    data: { focus: `${id}.label` },
  });
  label.addEventListener("change", () => void model.edit({ op: "label_node", node: id, label: label.value }));
  const settings = type.settings.filter(({ reads }) => !reads).map((setting) => settingField(model, id, setting));
  const looks = type.outputs
    .filter((o) => o.type !== "texture")
    .map((output) => {
      const source = `${id}.${output.key}`;
      const isShown = model.shown === source;
      return h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-pressed": String(isShown),
          data: { focus: `${source}.show` },
          onclick: () => void model.setShown(isShown ? "" : source),
        },
        type.outputs.length > 1 ? output.name : isShown ? "Shown on stage" : "Show on stage",
      );
    });
  return h(
    "div",
    { class: "open-part" },
    settings,
    readingParts(model, id),
    h("p", {}, type.sentence),
    type.formula ? h("p", { class: "formula mono" }, type.formula) : null,
    analysisPart(model, id),
    motifPart(model, id),
    h("label", { class: "naming" }, h("span", {}, "Name"), label),
    model.settings.nodes[type.key] && !type.hidden
      ? h("p", { class: "hint" }, h("a", { href: `/nodes/${type.key}`, target: "_blank" }, "More about this node"))
      : null,
    type.inputs.some((p) => p.default.length && !node?.wires?.[p.key])
      ? h("p", { class: "hint" }, "◇ makes a value a parameter.")
      : null,
    h(
      "div",
      { class: "looks" },
      type.outputs.length > 1 ? h("span", { class: "quiet" }, "Show on stage:") : null,
      looks,
    ),
  );
}
