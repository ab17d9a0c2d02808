/** What a wire tells when it is pressed: what flows, from where to where, and what can be done with it. */
import { popover } from "moth/dialogs.js";
import { h } from "moth/dom.js";
import { numberText } from "moth/fields.js";
import { partWords } from "moth/workbench/wires.js";

/** @typedef {import("./graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("./model.js").GraphModel} GraphModel */

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
  const from = model.nameOf(source) + (outputs.length > 1 ? `, ${outputs.find((o) => o.key === output)?.name}` : "");
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
  const port = model.port(node, input);
  const taken = port.type === "flexible" ? "flexible" : (model.state.input_types[`${node}.${input}`] ?? port.type);
  const parts = Object.entries(model.settings.parts)
    .filter(([, p]) => p.given.includes(given) && model.settings.fits[p.made].includes(taken))
    .map(([key]) => /** @type {[string, string]} */ ([key, partWords(model.settings.parts, key, given)]));
  return parts.length && model.settings.fits[given]?.includes(taken) ? [["", "all of it"], ...parts] : parts;
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
    const wire = { op: "wire", node, input, from_node: source, from_output: output, part: select.value };
    void model.edit(wire);
  });
  return select;
}

/**
 * @param {GraphPane} pane
 * @param {string} node
 * @param {string} input
 * @param {number} x
 * @param {number} y
 */
export function showWire(pane, node, input, x, y) {
  const { model } = pane;
  const { ends, flows, range } = wireWords(model, node, input);
  const [source] = model.nodes.get(node)?.wires?.[input] ?? [""];
  /** @param {() => void} act */
  const closing = (act) => () => {
    panel.remove();
    act();
  };
  const part = partField(model, node, input);
  /** @type {(words: string, act: () => void) => HTMLElement} */
  const button = (words, act) => h("button", { type: "button", class: "button small", onclick: closing(act) }, words);
  const panel = h(
    "div",
    { class: "wire-card", role: "dialog", "aria-label": `Wire: ${ends}` },
    h("p", {}, h("strong", {}, ends)),
    h("p", { class: "quiet" }, flows, range ? h("span", { class: "mono" }, ` · ${range}`) : ""),
    part ? h("label", { class: "setting" }, h("span", {}, "Takes"), part) : null,
    h(
      "div",
      { class: "looks" },
      button("Put a node in", () => pane.addInto(node, input)),
      button("Unwire", () => void model.edit({ op: "unwire", node, input })),
      button("To its source", () => pane.focus(source)),
      node === "dock" ? null : button("To its end", () => pane.focus(node)),
    ),
  );
  const anchor = h("span", { class: "pointer-anchor" });
  anchor.style.left = `${x}px`;
  anchor.style.top = `${y}px`;
  document.body.append(anchor);
  popover(anchor, panel);
  anchor.remove();
  part?.addEventListener("change", () => panel.remove());
  panel.querySelector("button")?.focus();
}
