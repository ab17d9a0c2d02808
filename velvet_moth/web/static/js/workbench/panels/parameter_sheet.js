/** The sheet of one parameter: its name and range, what it feeds, and closing it; and renaming everywhere. */
import { getJson } from "moth/base/api.js";
import { toHex } from "moth/fields/colour.js";
import { answers, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { valueText } from "moth/fields/fields.js";
import { tell } from "moth/base/notices.js";
import { rank } from "moth/workbench/model/fitting.js";
import { renamingSheet } from "moth/workbench/shared/renaming.js";
import { choose } from "moth/workbench/shared/search.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").Parameter} Parameter */

/**
 * The inputs a parameter feeds: the one it opens, or those that read the value card it opens.
 * @param {GraphModel} model
 * @param {Parameter} parameter
 * @returns {{ node: string, input: string }[]}
 */
export function usesOf(model, { node, input }) {
  if (model.port(node, input).wirable) return [{ node, input }];
  return [...model.nodes].flatMap(([id, { wires }]) =>
    Object.entries(wires ?? {})
      .filter(([, [source]]) => source === node)
      .map(([key]) => ({ node: id, input: key })),
  );
}

/** @param {GraphModel} model @param {{ node: string, input: string }} end */
const nameOfInput = (model, { node, input }) =>
  node === "dock"
    ? `${model.port(node, input).name} of the dock`
    : `${model.port(node, input).name} of ${model.nameOf(node)}`;

/**
 * By keyboard what dragging a parameter onto an input does.
 * @param {GraphPane} pane
 * @param {Parameter} parameter
 */
function feedAnother({ model }, parameter) {
  const width = model.state.input_types[`${parameter.node}.${parameter.input}`] ?? "number";
  const choices = [...model.nodes.keys()].flatMap((node) =>
    model
      .typeOf(node)
      .inputs.filter((port) => port.wirable && rank(model.settings, width, port.type) > 0)
      .filter((port) => node !== parameter.node || port.key !== parameter.input)
      .map((port) => ({
        name: nameOfInput(model, { node, input: port.key }),
        note: model.nodes.get(node)?.wires?.[port.key] ? "takes the place of its wire" : "",
        act: () => void model.craft({ craft: "share_parameter", parameter: parameter.id, node, input: port.key }),
      })),
  );
  choose(`Feed ${parameter.name} to`, "Type the input or the card", (query) =>
    choices.filter((c) => c.name.toLowerCase().includes(query.toLowerCase())),
  );
}

/**
 * @param {string} label
 * @param {string} value
 * @param {object} [extra]
 * @returns {[HTMLElement, HTMLInputElement]}
 */
function line(label, value, extra = {}) {
  const input = h("input", { class: "field", value, ...extra });
  return [h("label", { class: "line" }, h("span", {}, label), input), input];
}

/**
 * The values a parameter had, to be taken again, and the present one, to be given to a variant.
 * @param {GraphModel} model
 * @param {Parameter} parameter
 * @param {(act: () => void) => void} closing closes the sheet before it acts
 */
function valuesHeld(model, parameter, closing) {
  const { node, input, id, name } = parameter;
  const list = h("ul", { class: "values-held" }, h("li", { class: "quiet" }, "…"));
  const take = (/** @type {import("../../types.d.ts").Value} */ value) =>
    void model.edit(
      model.variant
        ? { op: "set_override", variant: model.variant, parameter: id, value }
        : { op: "set_value", node, input, value },
    );
  getJson(`${model.url}/history/${encodeURIComponent(id)}`).then(({ values }) => {
    const rows = values.map((/** @type {{ value: number[] | string, where: string, made: string }} */ held) => {
      const words = Array.isArray(held.value) ? valueText(held.value.slice(0, 8)) : held.value;
      const when = new Date(held.made).toLocaleString([], { dateStyle: "short", timeStyle: "short" });
      const again = h(
        "button",
        { type: "button", class: "button small mono", onclick: () => closing(() => take(held.value)) },
        words,
      );
      if (Array.isArray(held.value) && held.value.length === 3)
        again.style.borderLeft = `14px solid ${toHex(held.value)}`;
      return h("li", {}, again, h("span", { class: "quiet" }, `${held.where}, ${when}`));
    });
    list.replaceChildren(...(rows.length ? rows : [h("li", { class: "quiet" }, "It was never changed.")]));
  }, tell);
  const others = [{ id: "", name: "the defaults" }, ...model.state.document.variants].filter(
    (variant) => variant.id !== model.variant,
  );
  const give = (/** @type {string} */ variant) => {
    const value = model.value(node, input);
    /** @type {import("../../types.d.ts").Operation} */
    const step = variant
      ? { op: "set_override", variant, parameter: id, value }
      : { op: "set_value", node, input, value };
    closing(() => void model.edit(step));
  };
  const to = h(
    "select",
    { class: "field", "aria-label": `Give the value of ${name} to` },
    h("option", { value: "-" }, "choose …"),
    others.map((variant) => h("option", { value: variant.id }, variant.name)),
  );
  to.addEventListener("change", () => to.value !== "-" && give(to.value));
  return h(
    "div",
    {},
    others.length ? h("label", { class: "line" }, h("span", {}, "Give its value to"), to) : null,
    h("details", {}, h("summary", {}, "Values it had"), list),
  );
}

/**
 * @param {GraphPane} pane
 * @param {Parameter} parameter
 */
export function parameterSheet(pane, parameter) {
  const { model } = pane;
  const number = { type: "number", step: "any", required: true };
  const [nameLine, name] = line("Name", parameter.name, { required: true, maxlength: 80 });
  const [lowLine, low] = line("Low end", String(parameter.low), number);
  const [highLine, high] = line("High end", String(parameter.high), number);
  const [stepLine, step] = line("Step", String(parameter.step), number);
  const [unitLine, unit] = line("Unit", parameter.unit, { maxlength: 12 });
  const groups = [...new Set(model.state.document.parameters.map((p) => p.group).filter(Boolean))];
  const [groupLine, group] = line("Group", parameter.group, { maxlength: 40, list: "parameter-groups" });
  const [helpLine, help] = line("Help", parameter.help, { maxlength: 200 });
  /** @param {() => void} act */
  const closing = (act) => () => {
    dialog.close();
    act();
  };
  /** @type {(words: string, act: () => void, look?: string) => HTMLElement} */
  const button = (words, act, look = "small") =>
    h("button", { type: "button", class: `button ${look}`, onclick: act }, words);
  const move = (/** @type {number} */ by) => () => {
    const at = model.state.document.parameters.findIndex((p) => p.id === parameter.id) + by;
    if (at >= 0) void model.edit({ op: "order_parameter", parameter: parameter.id, at });
  };
  const close = button(
    "Make it a plain value",
    closing(() => void model.edit({ op: "remove_parameter", parameter: parameter.id })),
    "danger",
  );
  const uses = usesOf(model, parameter);
  const form = h(
    "form",
    { method: "dialog" },
    h(
      "datalist",
      { id: "parameter-groups" },
      groups.map((value) => h("option", { value })),
    ),
    [nameLine, lowLine, highLine, stepLine, unitLine, groupLine, helpLine],
    h(
      "div",
      { class: "uses" },
      h("span", { class: "quiet" }, uses.length ? "Feeds" : "Feeds nothing yet"),
      uses.map((end) =>
        button(
          nameOfInput(model, end),
          closing(() => (end.node === "dock" ? undefined : pane.focus(end.node))),
        ),
      ),
      button(
        "Feed another input…",
        closing(() => feedAnother(pane, parameter)),
      ),
    ),
    h(
      "div",
      { class: "row" },
      h("span", { class: "quiet" }, "Place in the list"),
      button("Up", move(-1)),
      button("Down", move(1)),
    ),
    valuesHeld(model, parameter, (act) => closing(act)()),
    answers("Keep", close),
  );
  form.addEventListener("submit", () => {
    const changed = { name: name.value, low: Number(low.value), high: Number(high.value), step: Number(step.value) };
    const words = { unit: unit.value, group: group.value, help: help.value };
    /** @type {import("../../types.d.ts").Operation[]} */
    const steps = [{ op: "edit_parameter", parameter: { ...parameter, ...changed, ...words } }];
    // A value card that carries the parameter's name goes on doing so.
    if (model.nodes.get(parameter.node)?.label === parameter.name && name.value !== parameter.name) {
      steps.push({ op: "label_node", node: parameter.node, label: name.value });
    }
    void model.editAll(steps, `edited parameter ${name.value}`);
  });
  const dialog = sheet("Parameter", form);
  name.focus();
}

/**
 * Find and replace in every name of the graph.
 * @param {GraphModel} model
 */
export function renameEverywhere(model) {
  const { nodes, parameters, variants, marks } = model.state.document;
  const names = [
    ...nodes.map((n) => n.label ?? ""),
    ...parameters.flatMap((p) => [p.name, p.group]),
    ...variants.map((v) => v.name),
    ...marks.map((m) => (m.kind === "note" ? m.text : m.title)),
  ].filter(Boolean);
  renamingSheet({
    title: "Rename everywhere",
    words: "In the names of cards, parameters, groups, variants, frames and bookmarks, and in notes.",
    names,
    onlyFound: true,
    empty: "No name holds this. Capitals count.",
    action: "Rename",
    done: (find, put) => void model.craft({ craft: "rename_everywhere", find, replace_with: put }),
  });
}
