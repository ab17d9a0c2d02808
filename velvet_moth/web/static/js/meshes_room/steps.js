/** The steps on a mesh: every edit is kept and seen at once on the stage; what uses the mesh follows when it is baked. */
import { getJson, postJson, send } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { outputName, seeButton } from "moth/stacks/output_fields.js";
import { StackModel } from "moth/stacks/stack_model.js";
import { StackView } from "moth/stacks/stack_view.js";
import { choiceField } from "moth/stacks/step_fields.js";
import { StepList } from "moth/stacks/step_list.js";

/** @typedef {import("../types.d.ts").MeshStackState} MeshStackState */
/** @typedef {import("../types.d.ts").MeshPreview} MeshPreview */
/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {StackModel<MeshStackState>} MeshStackModel */
/** @typedef {StackView<MeshStackModel, MeshPreview>} MeshStackView */

/** With so many rays at a vertex a first look is there at once, and with so many it is good enough to judge; a bake takes all. */
const QUICK = 8;
const FINE = 64;

const urlOf = (/** @type {string} */ mesh) => `/api/meshes/${mesh}/stack`;

/**
 * @param {HTMLElement} place
 * @param {{
 *   stack: import("../stacks/stack_view.js").StackSettings,
 *   places: string[],
 *   textures: () => import("../types.d.ts").TextureInfo[],
 *   parts: () => string[],
 *   mesh: () => string,
 *   strokes: () => HTMLElement,
 *   toTexture: (step: StackStepState) => void,
 * }} about `mesh` is the id of the one that is open; `toTexture` bakes the directions of a step
 */
export function stepsIn(place, { stack, places, textures, parts, mesh, strokes, toTexture }) {
  const ask = (
    /** @type {MeshStackModel} */ model,
    /** @type {string} */ step,
    /** @type {string} */ layer,
    rays = 0,
  ) => postJson(`${urlOf(mesh())}/preview`, { stack: model.stack, step, layer, rays });
  /** @type {MeshStackView} */
  const view = new StackView(stack, textures, (model, step, layer) => ask(model, step, layer, QUICK));
  new StepList(place, view, {
    head: () => [],
    make: { words: "Bake", now: "Make the mesh as its steps are now", done: "The mesh is as its steps are" },
    save: "Save them as a file, which ./moth mesh computes without a browser",
    fewest: 0,
    named: false,
    output: (step, layer) =>
      view.kinds.get(step.step)?.gives[layer] === "directions"
        ? directionsOf(view, places, step, layer, toTexture)
        : channelOf(view, places, step, layer),
    parts,
    strokes,
    file: async () => {
      await view.model?.load();
      return getJson(`${urlOf(mesh())}/file`);
    },
  });
  // What was seen in a hurry is seen again with more rays, unless something newer is looked at by then.
  view.addEventListener("seen", async () => {
    const { seen, model, chosen, layer } = view;
    if (!seen.is_rough || seen.rays >= FINE || !model) return;
    const { stack: looked } = model;
    try {
      const fine = await ask(model, chosen, layer, FINE);
      if (view.seen !== seen || model.stack !== looked) return;
      view.seen = fine;
      view.dispatchEvent(new CustomEvent("seen", { detail: fine }));
    } catch (error) {
      tell(error);
    }
  });
  return view;
}

/** @param {MeshStackView} view @param {string} mesh */
export async function openSteps(view, mesh) {
  const url = urlOf(mesh);
  /** @type {MeshStackState} */
  const state = await getJson(url);
  return () => view.open(new StackModel(url, state));
}

/**
 * The numbers of a preview, one for each vertex.
 * @param {string} mesh
 * @param {MeshPreview} seen
 */
export async function numbersOf(mesh, { values }) {
  const answer = await send(`${urlOf(mesh)}/values/${values}`);
  return new Float32Array(await answer.arrayBuffer());
}

/**
 * How far a channel of a level of detail is off, one number for each vertex of the full mesh.
 * @param {string} mesh
 * @param {number} level
 * @param {string} channel
 */
export async function lossesOf(mesh, level, channel) {
  const answer = await send(`${urlOf(mesh)}/loss/${level}/${encodeURIComponent(channel)}`);
  return new Float32Array(await answer.arrayBuffer());
}

/** The address of the form of a preview. @param {string} mesh @param {MeshPreview} seen */
export const seenAddress = (mesh, { geometry }) => `${urlOf(mesh)}/seen/${geometry}`;

/**
 * The directions of a step: looked at by a press, and sent to a texture, or as numbers to channels.
 * @param {MeshStackView} view
 * @param {string[]} places
 * @param {StackStepState} step
 * @param {string} layer
 * @param {(step: StackStepState) => void} toTexture
 */
function directionsOf(view, places, step, layer, toTexture) {
  const free = places.filter((place) => !view.stack?.outputs.some(({ id }) => id === place));
  const small = (/** @type {string} */ words, /** @type {string} */ title, /** @type {() => void} */ act) =>
    h(
      "button",
      { type: "button", class: "button small", title, onclick: act, data: { focus: `${step.id} ${words}` } },
      words,
    );
  const toChannels = () => {
    const id = `flow_${step.id}`.slice(0, 32);
    const place = view.steps.findIndex((one) => one.id === step.id) + 1;
    const send = ["along_u", "along_v"].map((one, at) => ({
      op: "add_output",
      id: free[at],
      step: id,
      layer: one,
      name: `Flow ${one.at(-1)?.toUpperCase()}`,
    }));
    const add = { op: "add_step", step: "flow_numbers", place, id, values: { given: { step: step.id } } };
    const operations = /** @type {import("../types.d.ts").StackOperation[]} */ ([add, ...send]);
    void view.edit({ op: "batch", operations, summary: "sent directions to two channels" });
  };
  return h(
    "div",
    { class: "output channel" },
    seeButton(view, step, layer),
    small("To a texture …", "As a flow map over the UVs, which follows the mesh", () => toTexture(step)),
    free.length > 1
      ? small("To channels", "Two channels of the mesh: along U and along V, a half is still", toChannels)
      : null,
  );
}

/**
 * The numbers of a step: looked at by a press, and sent to a channel, where they have a name.
 * @param {MeshStackView} view
 * @param {string[]} places
 * @param {StackStepState} step
 * @param {string} layer
 */
function channelOf(view, places, step, layer) {
  const outputs = view.stack?.outputs ?? [];
  const known = outputs.find((one) => one.step === step.id && one.layer === layer);
  const words = layer.replaceAll("_", " ");
  const focus = `${step.id} ${layer}`;
  const taken = (/** @type {string} */ place) => outputs.find((one) => one.id === place);
  const choices = places.map((one) => {
    const other = taken(one);
    return /** @type {[string, string]} */ ([one, other && other !== known ? `${one}, now ${other.name}` : one]);
  });
  const go = (/** @type {string} */ to) => {
    const other = taken(to);
    /** @type {import("../types.d.ts").StackOperation[]} */
    const operations = [known, to ? other : undefined]
      .filter((one, at, all) => one && all.indexOf(one) === at)
      .map((one) => ({ op: "remove_output", id: one?.id ?? "" }));
    if (to) operations.push({ op: "add_output", id: to, step: step.id, layer, name: known?.name ?? "" });
    const summary = to ? `sent ${words} to ${to}` : `keeps ${words} in no channel`;
    void view.edit({ op: "batch", operations, summary });
  };
  const kept = choiceField([["", "in no channel"], ...choices], known?.id ?? "", `Channel for ${words}`, focus, go);
  const see = seeButton(view, step, layer);
  if (!known) return h("div", { class: "output channel" }, see, kept);
  const name = outputName(view, known, `What ${known.id} means`);
  return h("div", { class: "output channel" }, see, kept, name);
}
