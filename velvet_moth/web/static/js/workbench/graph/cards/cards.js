/** Cards: a swatch, the name, the value; inputs beneath. What else there is stands on the card's slip. */
import { colourField } from "moth/fields/colour_picker.js";
import { BEYOND, numberText, numbersField } from "moth/fields/fields.js";
import { h } from "moth/base/dom.js";
import { stopsField } from "moth/fields/stops.js";
import { pictureOf } from "moth/pictures/texture_grid.js";
import { textureChoice } from "moth/workbench/shared/texture_choice.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../../types.d.ts").Port} Port */

/**
 * Whether a problem shows on the card itself, not only in the bar.
 * @param {import("../../../types.d.ts").Problem} problem
 */
export const isSerious = (problem) => problem.severity === "error" || problem.severity === "warning";

/**
 * The field for an unwired input, by the type it has resolved to.
 * @param {GraphModel} model
 * @param {string} node
 * @param {Port} port
 * @param {{ label?: string, key?: string }} [called] what it is called elsewhere than on its card
 * @returns {HTMLElement | null}
 */
export function valueField(model, node, port, called = {}) {
  const type = model.state.input_types[`${node}.${port.key}`] ?? port.type;
  const key = called.key ?? `${node}.${port.key}`;
  const label = called.label ?? `${port.name} of ${model.nameOf(node)}`;
  if (port.source) return h("span", { class: "quiet from", title: `Reads ${port.source} by itself` }, "auto");
  if (type === "surface") return h("span", { class: "quiet from" }, "plain");
  const value = model.value(node, port.key);
  if (typeof value === "string") return textureField(model, node, port, value, label, key);
  /** @param {number[]} kept */
  const keep = (kept) => void model.keep(node, port.key, kept);
  if (type === "bool") return toggleField(value, label, key, keep);
  if (type === "gradient" || type === "curve") {
    return stopsField({ value, kind: type, label, key, keep, drag: (v) => model.drag(node, port.key, v) });
  }
  if (type === "colour" || port.type === "colour") {
    return colourField({ value, label, key, keep, drag: (v) => model.drag(node, port.key, v), text: false });
  }
  const drag = (/** @type {number[]} */ dragged) => model.drag(node, port.key, dragged);
  return numbersField({ value, label, key, keep, drag, step: port.step, tight: true });
}

/**
 * @param {number[]} value
 * @param {string} label
 * @param {string} key
 * @param {(value: number[]) => void} keep
 */
function toggleField(value, label, key, keep) {
  const box = h("input", { type: "checkbox", checked: value[0] === 1, "aria-label": label, data: { focus: key } });
  box.addEventListener("change", () => keep([box.checked ? 1 : 0]));
  return box;
}

/**
 * @param {GraphModel} model
 * @param {string} node
 * @param {Port} port
 * @param {string} chosen
 * @param {string} label
 * @param {string} key
 */
function textureField(model, node, port, chosen, label, key) {
  const choose = (/** @type {string} */ id) => void model.keep(node, port.key, id);
  return h(
    "button",
    {
      type: "button",
      class: "texture-field",
      "aria-label": `${label}: ${chosen ? "change" : "choose"}`,
      data: { focus: key },
      onclick: () => {
        const title = `${port.name} of ${model.nameOf(node)}`;
        textureChoice.ask({ title, key, chosen, canBeNone: true, choose });
      },
    },
    chosen ? h("img", { src: pictureOf(chosen, model.state.textures[chosen]?.revision), alt: "" }) : "choose",
  );
}

/**
 * @param {GraphModel} model
 * @param {string} node
 * @param {Port} port
 */
export function parameterButton(model, node, port) {
  const existing = model.parameterAt(node, port.key);
  const act = () => {
    if (existing) return void model.edit({ op: "remove_parameter", parameter: existing.id });
    void model.edit({ op: "add_parameter", parameter: suggestedParameter(model, node, port) });
  };
  const words = existing ? "Close parameter" : "Make parameter";
  return h(
    "button",
    {
      type: "button",
      class: "parameter-toggle",
      "aria-pressed": String(!!existing),
      "aria-label": `${words}: ${port.name} of ${model.nameOf(node)}`,
      title: words,
      data: { focus: `${node}.${port.key}.parameter` },
      onclick: act,
    },
    existing ? "◆" : "◇",
  );
}

/**
 * @param {GraphModel} model
 * @param {string} node
 * @param {Port} port
 */
export function unplugButton(model, node, port) {
  return h(
    "button",
    {
      type: "button",
      class: "unplug",
      "aria-label": `Unwire ${port.name} of ${model.nameOf(node)}`,
      title: "Unwire",
      data: { focus: `${node}.${port.key}.unplug` },
      onclick: () => void model.edit({ op: "unwire", node, input: port.key }),
    },
    "×",
  );
}

/**
 * A parameter named after the card, or after card and input, with the input's own range.
 * @param {GraphModel} model
 * @param {string} node
 * @param {Port} port
 */
function suggestedParameter(model, node, port) {
  const own = model.nameOf(node);
  const isValue = port.key === "value" && !port.wirable;
  const taken = model.state.document.parameters.map((p) => p.name);
  const stem = isValue ? own : `${own}: ${port.name.toLowerCase()}`;
  let name = stem;
  for (let number = 2; taken.includes(name); number += 1) name = `${stem} ${number}`;
  const { low, high, step, unit } = port;
  return { id: model.freshId(name), name, node, input: port.key, low, high, step, unit, group: "", help: port.words };
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
function inputRow(model, id, port) {
  const node = model.nodes.get(id);
  const wired = node?.wires?.[port.key];
  const problem = model.problemsOf(id).find((p) => p.input === port.key && isSerious(p));
  const type = model.state.input_types[`${id}.${port.key}`] ?? port.type;
  const isKeyed = model.keys.isKeyed(id, port.key);
  const state = wired && model.nodes.has(wired[0]) ? `wired from ${model.nameOf(wired[0])}` : "not wired";
  return h(
    "li",
    {
      class: `${problem ? problem.severity : ""} ${wired ? "wired" : ""} ${isKeyed ? "keyed" : ""}`,
      data: { input: port.key, node: id },
      title: isKeyed ? `${port.words}\nKeyed: it changes over time.` : port.words,
    },
    port.wirable
      ? h("button", {
          type: "button",
          class: "pin in",
          tabindex: -1,
          "aria-label": `${port.name}, takes ${model.settings.type_words[type]}, ${state}`,
        })
      : null,
    h("span", { class: "input-name" }, port.name),
    wired
      ? null
      : isFilled(model, id, port)
        ? h("span", { class: "quiet from" }, "by surface")
        : valueField(model, id, port),
  );
}

/**
 * Whether a whole surface brings what an unwired input carries.
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
export function isFilled(model, id, port) {
  const wires = model.nodes.get(id)?.wires;
  const filling = model.typeOf(id).inputs.find(({ fills }) => fills);
  return port.type !== "surface" && !!filling && !!wires?.[filling.key] && !wires[port.key];
}

/**
 * Whether an input has a row of its own without being asked for: extra ones that do nothing here have none.
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
export function isUsed(model, id, port) {
  const node = model.nodes.get(id);
  const { kind } = model.state.document;
  const isOf = (/** @type {Record<string, string[]>} */ kinds) => id === "dock" && !!kinds[kind]?.includes(port.key);
  return (
    (!port.extra && !isOf(model.settings.idle_by_kind)) ||
    isOf(model.settings.asked_by_kind) ||
    !!node?.wires?.[port.key] ||
    !!node?.values?.[port.key] ||
    !!model.parameterAt(id, port.key)
  );
}

/**
 * Opens and closes the rows of the inputs that do nothing yet.
 * @param {GraphModel} model
 * @param {string} id
 */
export function moreButton(model, id) {
  const hidden = model.typeOf(id).inputs.filter((port) => !isUsed(model, id, port)).length;
  if (!hidden) return null;
  const isOpen = model.hasMore.has(id);
  const what = id === "dock" ? "channels" : "inputs";
  return h(
    "li",
    { class: "more" },
    h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-expanded": String(isOpen),
        data: { focus: `${id}.more` },
        onclick: () => model.showMore(id, !isOpen),
      },
      isOpen ? `Fewer ${what}` : `${hidden} more ${what}`,
    ),
  );
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @param {import("../../../types.d.ts").NodeType["outputs"][number]} output
 * @param {boolean} alone
 */
function outputRow(model, id, output, alone) {
  const name = model.outputName(id, output);
  const pin = h("button", {
    type: "button",
    class: "pin out",
    tabindex: -1,
    data: { output: output.key, node: id },
    "aria-label": `${name} of ${model.nameOf(id)}, ${model.settings.type_words[model.state.types[`${id}.${output.key}`] ?? output.type]}`,
    title: name === output.name ? `${name}: drag to an input` : `${name} (${output.name}): drag to an input`,
  });
  return h("li", { class: alone ? "alone" : "", data: { out: output.key } }, alone ? null : name, pin);
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @returns {HTMLElement}
 */
export function makeCard(model, id) {
  const type = model.typeOf(id);
  const isParameter = model.parametersOf(id).length > 0;
  const problem = model.problemsOf(id).find(isSerious);
  const alone = type.outputs.length === 1;
  const name = model.nameOf(id);
  const isMuted = !!model.nodes.get(id)?.muted;
  return h(
    "div",
    {
      class: `card ${isMuted ? "muted" : ""} ${problem ? problem.severity : ""}`,
      tabindex: 0,
      role: "group",
      "aria-label": `${name}${name === type.name ? "" : `, ${type.name}`}${isMuted ? ", muted" : ""}${problem ? `, problem: ${problem.what}` : ""}`,
      data: { node: id, focus: id },
    },
    isMuted || isParameter ? h("span", { class: "tag" }, isMuted ? "muted" : "parameter") : null,
    h(
      "div",
      { class: "card-body" },
      h(
        "div",
        { class: "card-head" },
        h("img", { class: "swatch", alt: "", width: 34, height: 34, draggable: "false" }),
        h("div", { class: "titles" }, h("h3", {}, name), h("p", { class: "card-value mono" })),
      ),
      h(
        "ul",
        { class: "outputs" },
        type.outputs.map((o) => outputRow(model, id, o, alone)),
      ),
      h(
        "ul",
        { class: "inputs" },
        type.inputs
          .filter((port) => !port.reads && (isUsed(model, id, port) || model.hasMore.has(id)))
          .map((port) => inputRow(model, id, port)),
      ),
    ),
  );
}

/**
 * The parts of a card that change with every pass: picture and value.
 * @param {GraphModel} model
 * @param {string} id
 * @param {HTMLElement} card
 */
export function refreshCard(model, id, card) {
  const type = model.typeOf(id);
  const output = type.outputs.find((o) => o.type !== "texture") ?? type.outputs[0];
  const swatch = output && model.state.swatches[`${id}.${output.key}`];
  if (!swatch) return;
  const picture = /** @type {HTMLImageElement} */ (card.querySelector(".swatch"));
  if (swatch.png && picture.src !== swatch.png) picture.src = swatch.png;
  const outputType = model.state.types[`${id}.${output.key}`];
  const pinned = model.pinned.get(`${id}.${output.key}`);
  const value = pinned ?? swatch.value;
  const text = outputType === "surface" ? "surface" : shortText(value) + (output.unit ? ` ${output.unit}` : "");
  const line = /** @type {HTMLElement} */ (card.querySelector(".card-value"));
  if (line.textContent !== text) line.textContent = text;
  line.classList.toggle("pinned", !!pinned);
  line.classList.toggle("beyond", text === BEYOND);
  line.title = pinned ? "At the pin" : text === BEYOND ? BEYOND : "";
}

/** From here on a number is shown by its power of ten. */
const LARGE = 1e5;

/** A value of one to four components in few letters. @param {(number | null)[]} value */
export function shortText(value) {
  const known = value.filter((v) => v !== null);
  if (known.length < value.length) return BEYOND;
  if (known.some((v) => Math.abs(v) >= LARGE)) return known.map(numberText).join(" ").replaceAll("-", "−");
  if (known.length === 1) return known[0].toFixed(3).replace("-", "−");
  return known
    .map((v) =>
      v
        .toFixed(Math.abs(v) < 0.995 ? 2 : 1)
        .replace(/^(-?)0\./, "$1.")
        .replace("-", "−"),
    )
    .join(" ");
}
