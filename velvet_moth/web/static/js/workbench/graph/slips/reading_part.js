/** How a card reads its textures: what each will read, what is wrong with that, and what can be set of it. */
import { h } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";
import { mendButton } from "moth/workbench/shared/mends.js";
import { settingField } from "moth/workbench/shared/setting_field.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../../types.d.ts").Port} Port */

/**
 * The id of the texture that an input reads, its own or that of the card it is wired from.
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
function textureAt(model, id, port) {
  const source = model.nodes.get(id)?.wires?.[port.key]?.[0];
  if (!source) return String(model.value(id, port.key));
  const held = model.nodes.has(source) && model.typeOf(source).inputs.find(({ type }) => type === "texture");
  return held ? String(model.value(source, held.key)) : "";
}

/**
 * The outputs of a card that are wired, in words.
 * @param {GraphModel} model
 * @param {string} id
 */
function taken(model, id) {
  const wired = new Set();
  for (const node of model.nodes.values())
    for (const [from, output] of Object.values(node.wires ?? {})) if (from === id) wired.add(output);
  const names = model.typeOf(id).outputs.filter(({ key }) => wired.has(key));
  return names.length ? `reads ${names.map(({ name }) => name.toLowerCase()).join(", ")}` : "nothing is read of it yet";
}

/**
 * @param {GraphModel} model
 * @param {string} id
 */
export function readingParts(model, id) {
  const type = model.typeOf(id);
  return type.inputs
    .filter(({ key }) => type.inputs.some(({ reads }) => reads === key))
    .map((port) => part(model, id, port));
}

/**
 * @param {GraphModel} model
 * @param {string} id
 * @param {Port} port
 */
function part(model, id, port) {
  const type = model.typeOf(id);
  const texture = textureAt(model, id, port);
  const known = model.state.textures[texture];
  const green = known?.signed ? `, green ${known.green}` : "";
  const settings = type.settings.filter(({ reads }) => reads === port.key);
  const values = type.inputs.filter(({ reads }) => reads === port.key);
  const problems = model.problemsOf(id).filter(({ input }) => input === port.key);
  return h(
    "div",
    { class: "reading-part", data: { reading: port.key } },
    known
      ? h(
          "p",
          {},
          h("a", { href: `/textures?t=${texture}`, target: "_blank", title: "In the room of textures" }, known.name),
          h("br"),
          h("span", { class: "mono" }, `${known.role}${green} · ${known.width} × ${known.height}`),
          h("br"),
          taken(model, id),
        )
      : null,
    problems.map((problem) =>
      h(
        "div",
        { class: `verdict ${problem.severity}` },
        problem.what,
        " ",
        problem.mends.map((m) => mendButton(model, m)),
      ),
    ),
    settings.map((setting) => settingField(model, id, setting)),
    values.map((value) =>
      h(
        "label",
        { class: "setting", title: value.words },
        h("span", {}, value.name),
        numbersField({
          value: /** @type {number[]} */ (model.value(id, value.key)),
          label: `${value.name} of ${model.nameOf(id)}`,
          key: `${id}.${value.key}`,
          step: value.step,
          keep: (kept) => void model.keep(id, value.key, kept),
          drag: (dragged) => model.drag(id, value.key, dragged),
        }),
      ),
    ),
  );
}
