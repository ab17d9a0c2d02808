/** Channels of a mesh, or directions, baked to a texture over its UVs. */
import { postJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { done } from "moth/base/jobs.js";
import { notice, tell } from "moth/base/notices.js";
import { nameOf } from "moth/brush/strokes.js";

const MOST_CHANNELS = 4;
/** Alike a quarter of what mipmaps of a texture of this size read across. */
const PADDING = 8;
/** Paint is soft, and directions change slowly over a surface. */
const USUAL = 512;

/** @typedef {{ sizes: number[], bake_depths: string[] }} Settings */
/** @typedef {import("../types.d.ts").MeshFacts} MeshFacts */

/**
 * @param {MeshFacts} facts
 * @param {Settings} settings
 * @param {string[]} chosen the channels that are ticked at first
 */
export function toTexture({ mesh, carried }, settings, chosen) {
  const boxes = Object.entries(carried).map(([place, meaning]) => {
    const box = h("input", { type: "checkbox", value: place, checked: chosen.includes(place) });
    return { box, row: h("label", {}, box, h("span", {}, meaning ? `${meaning} (${place})` : place)) };
  });
  const ticked = () => boxes.filter(({ box }) => box.checked).map(({ box }) => box.value);
  const wrong = h("p", { class: "quiet", role: "status" });
  const name = `${mesh.name} ${carried[chosen[0]] ?? ""}`.trim();
  const { form, save } = formOf(mesh.id, settings, { name, size: USUAL }, () => ({ channels: ticked() }));
  const check = () => {
    const count = ticked().length;
    save.disabled = count < 1 || count > MOST_CHANNELS;
    wrong.textContent = save.disabled ? "Choose one to four channels: they become red, green, blue and alpha." : "";
  };
  for (const { box } of boxes) box.addEventListener("change", check);
  check();
  form.prepend(...boxes.map(({ row }) => row), wrong);
  sheet(`Bake channels of ${mesh.name}`, form);
}

/**
 * @param {MeshFacts} facts
 * @param {Settings} settings
 * @param {import("../types.d.ts").StackStepState} step whose directions it holds
 */
export function flowToTexture({ mesh }, settings, step) {
  const name = `${mesh.name} flow`;
  const { form } = formOf(mesh.id, settings, { name, size: USUAL }, () => ({ step: step.id }));
  form.prepend(
    h(
      "p",
      { class: "quiet" },
      "Red runs along U, green upwards along V; a half of both is still. Whenever the mesh is baked, it is made again.",
    ),
  );
  sheet(`Bake the directions of ${nameOf(step)}`, form);
}

/**
 * What is asked of every bake to a texture.
 * @param {string} mesh
 * @param {Settings} settings
 * @param {{ name: string, size: number }} usual
 * @param {() => object} what it holds
 */
function formOf(mesh, { sizes, bake_depths: depths }, usual, what) {
  const options = (/** @type {(string | number)[]} */ all, /** @type {string | number} */ now) =>
    all.map((one) => h("option", { value: String(one), selected: one === now }, String(one)));
  const size = h("select", { class: "field", "aria-label": "Size in pixels" }, options(sizes, usual.size));
  const depth = h("select", { class: "field", "aria-label": "Depth" }, options(depths, depths[0]));
  const padding = h("input", { class: "field", type: "number", min: 0, max: 64, value: String(PADDING) });
  const name = h("input", { class: "field", maxlength: 80, value: usual.name });
  const save = h("button", { class: "button chief", value: "bake" }, "Bake");
  const form = h(
    "form",
    { class: "save-mesh", method: "dialog" },
    h("label", {}, h("span", {}, "Name"), name),
    h("label", {}, h("span", {}, "Pixels a side"), size),
    h("label", {}, h("span", {}, "Depth"), depth),
    h(
      "label",
      { title: "So far the values go on around each island of the UVs" },
      h("span", {}, "Padding, pixels"),
      padding,
    ),
    save,
  );
  form.addEventListener("submit", async () => {
    try {
      const job = await postJson(`/api/meshes/${mesh}/texture`, {
        ...what(),
        size: Number(size.value),
        depth: depth.value,
        padding: Math.min(64, Math.max(0, Math.round(Number(padding.value)))),
        name: name.value,
      });
      if (await done(job)) {
        const act = () => location.assign("/textures");
        notice(`${name.value} is among the textures.`, { action: "Open the textures", act, stay: true });
      }
    } catch (error) {
      tell(error);
    }
  });
  return { form, save };
}
