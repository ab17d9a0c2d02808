/** What a wire carries, in words, and the choice of what its reader takes of it. */
import { rank } from "moth/workbench/model/fitting.js";
import { h } from "moth/base/dom.js";
import { numberText } from "moth/fields/fields.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */

/**
 * What a wire takes of a value, in words: colours have red, other values X.
 * @param {import("../../types.d.ts").PageSettings["parts"]} parts
 * @param {string} part
 * @param {string} given the type of the whole value
 */
export function partWords(parts, part, given) {
  const [plain, ofColour] = parts[part].words.split(" or ");
  return given === "colour" && ofColour ? ofColour : plain;
}

/**
 * A wire in words: type, ends, and what it runs over in its swatch.
 * @param {GraphModel} model
 * @param {string} node
 * @param {string} input
 */
export function wireWords(model, node, input) {
  const [source, output, part] = model.nodes.get(node)?.wires?.[input] ?? ["", "", ""];
  const key = `${source}.${output}`;
  const type = model.state.types[key] ?? "number";
  const swatch = model.state.swatches[key];
  const outputs = model.typeOf(source).outputs;
  const given = outputs.find((o) => o.key === output);
  const from = model.nameOf(source) + (outputs.length > 1 && given ? `, ${model.outputName(source, given)}` : "");
  const to = node === "dock" ? "" : ` of ${model.nameOf(node)}`;
  const range = swatch && type !== "surface" ? `${numberText(swatch.low)} … ${numberText(swatch.high)}` : "";
  return {
    ends: `${from} to ${model.port(node, input).name}${to}`,
    flows: (part ? `${partWords(model.settings.parts, part, type)} of ` : "") + model.settings.type_words[type],
    range: range.replaceAll("-", "−"),
  };
}

/**
 * The parts of a value that an input takes, for a choice.
 * @param {GraphModel} model
 * @param {string} node
 * @param {string} input
 * @returns {[string, string][]} the part's key and its words; empty where there is nothing to choose
 */
function partChoices(model, node, input) {
  const [source, output] = model.nodes.get(node)?.wires?.[input] ?? ["", ""];
  const given = model.state.types[`${source}.${output}`];
  const taken = model.port(node, input).type;
  const parts = Object.entries(model.settings.parts)
    .filter(([, p]) => p.given.includes(given) && rank(model.settings, p.made, taken) > 1)
    .map(([key]) => /** @type {[string, string]} */ ([key, partWords(model.settings.parts, key, given)]));
  return parts.length && rank(model.settings, given, taken) > 1 ? [["", "all of it"], ...parts] : parts;
}

/**
 * A choice of what the wire takes; null where it can only take all.
 * @param {GraphModel} model
 * @param {string} node
 * @param {string} input
 */
export function partField(model, node, input) {
  const choices = partChoices(model, node, input);
  const [source, output, part] = model.nodes.get(node)?.wires?.[input] ?? ["", "", ""];
  if (!choices.length) return null;
  const label = `What ${model.port(node, input).name} of ${model.nameOf(node)} takes`;
  const select = h(
    "select",
    { class: "field part", "aria-label": label, title: label, data: { focus: `${node}.${input}.part` } },
    choices.map(([key, words]) => h("option", { value: key, selected: key === (part ?? "") }, words)),
  );
  select.addEventListener("change", () => {
    void model.edit({ op: "wire", node, input, from_node: source, from_output: output, part: select.value });
  });
  return select;
}
