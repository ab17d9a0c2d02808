/** What a slip shows: every input with its whole name, settings, help, range and cost, and what can be done. */
import { h } from "moth/base/dom.js";
import {
  isFilled,
  isUsed,
  moreButton,
  parameterButton,
  unplugButton,
  valueField,
} from "moth/workbench/graph/cards/cards.js";
import { analysisPart } from "moth/workbench/graph/slips/analysis_part.js";
import { readingParts } from "moth/workbench/graph/slips/reading_part.js";
import { addressInside } from "moth/workbench/shared/motif_place.js";
import { settingField } from "moth/workbench/shared/setting_field.js";
import { partField } from "moth/workbench/shared/wire_words.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../../types.d.ts").Port} Port */

/**
 * What can be done with a use of a motif.
 * @param {GraphModel} model
 * @param {string} id
 */
function motifPart(model, id) {
  const type = model.nodes.get(id)?.type ?? "";
  if (!type.startsWith("motif_")) return null;
  const unpack = () => void model.ask("unpack", { node: id });
  return h(
    "div",
    { class: "looks" },
    h("a", { class: "button small", href: addressInside(type, model.state.id) }, "Open motif"),
    h("button", { type: "button", class: "button small", data: { focus: `${id}.unpack` }, onclick: unpack }, "Unpack"),
  );
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
function inputRow(model, id, port) {
  const wire = model.nodes.get(id)?.wires?.[port.key];
  const isBySurface = isFilled(model, id, port);
  const canBeParameter = !wire && !isBySurface && !port.source && port.type !== "surface";
  return h(
    "li",
    {
      class: model.keys.isKeyed(id, port.key) ? "keyed" : "",
      data: { input: port.key, node: id },
      title: port.words,
    },
    h("span", { class: "input-name" }, port.name),
    wire
      ? h("span", { class: "quiet from" }, `from ${model.nameOf(wire[0])}`)
      : isBySurface
        ? h("span", { class: "quiet from" }, "by surface")
        : valueField(model, id, port, { key: `slip.${id}.${port.key}` }),
    wire ? partField(model, id, port.key) : null,
    wire ? unplugButton(model, id, port) : null,
    canBeParameter ? parameterButton(model, id, port) : null,
  );
}

/**
 * @param {GraphModel} model
 * @param {string} id
 */
function inputRows(model, id) {
  const { inputs } = model.typeOf(id);
  const seen = inputs.filter((port) => !port.reads && (isUsed(model, id, port) || model.hasMore.has(id)));
  const more = moreButton(model, id);
  return seen.length || more
    ? h(
        "ul",
        { class: "inputs" },
        seen.map((port) => inputRow(model, id, port)),
        more,
      )
    : null;
}

/**
 * @param {GraphModel} model
 * @param {string} id
 */
function lookButtons(model, id) {
  const type = model.typeOf(id);
  const several = type.outputs.length > 1;
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
        several ? model.outputName(id, output) : isShown ? "Shown on stage" : "Show on stage",
      );
    });
  return h("div", { class: "looks" }, several ? h("span", { class: "quiet" }, "Show on stage:") : null, looks);
}

/**
 * Everything a slip shows, as text: it is drawn again only where this has changed.
 * @param {GraphModel} model
 * @param {string} id
 */
export function slipLook(model, id) {
  const node = model.nodes.get(id);
  const { inputs } = model.typeOf(id);
  const textures = inputs.filter(({ type }) => type === "texture");
  return JSON.stringify([
    node,
    model.hasMore.has(id),
    model.shown.startsWith(`${id}.`) && model.shown,
    inputs.map((p) => [model.value(id, p.key), model.state.input_types[`${id}.${p.key}`]]),
    textures.map((p) => model.state.textures[String(model.value(id, p.key))]),
    model.parametersOf(id),
    model.problemsOf(id),
    Object.values(node?.wires ?? {}).map(([source, output]) => [
      model.nodes.get(source)?.label,
      model.state.types[`${source}.${output}`],
    ]),
  ]);
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @returns {HTMLElement[]}
 */
export function slipParts(model, id) {
  const type = model.typeOf(id);
  const hasReference = model.settings.nodes[type.key] && !type.hidden;
  const parts = [
    inputRows(model, id),
    ...type.settings.filter(({ reads }) => !reads).map((setting) => settingField(model, id, setting)),
    ...readingParts(model, id),
    h("p", {}, type.sentence),
    type.formula ? h("p", { class: "formula mono" }, type.formula) : null,
    analysisPart(model, id),
    motifPart(model, id),
    hasReference
      ? h("p", { class: "hint" }, h("a", { href: `/nodes/${type.key}`, target: "_blank" }, "More about this node"))
      : null,
    lookButtons(model, id),
  ];
  return /** @type {HTMLElement[]} */ (parts.filter(Boolean));
}
