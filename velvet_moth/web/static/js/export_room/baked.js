/** A graph baked to the standard's own material: what was baked, how far each differs, and baking another one. */
import { getJson, postJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { done } from "moth/base/jobs.js";
import { newest } from "moth/base/rooms.js";
import { asCommand, asked, chosen, counted, form, graph } from "moth/export_room/choices.js";

/** @typedef {import("../types.d.ts").BakedFileState} BakedFileState */

const FROM = ["From the front", "From the right", "From behind", "From the left"];

/** A difference in words. @param {number} steps of 255 */
const inSteps = (steps) => steps.toFixed(steps < 10 ? 1 : 0);

/** @param {string} key */
function variantName(key) {
  const field = form.elements.namedItem("variant");
  const options = field instanceof HTMLSelectElement ? [...field.options] : [];
  return key ? (options.find(({ value }) => value === key)?.text ?? "a variant that is gone") : "the defaults";
}

/** @param {BakedFileState} file */
function cardOf(file) {
  const when = new Date(file.made).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const size = `${(file.bytes / 2 ** 20).toFixed(1)} MB`;
  return h(
    "article",
    { class: "baked-file", "aria-label": `Baked at ${when}` },
    h(
      "header",
      {},
      h("h2", {}, `${when}, ${file.side} pixels a side, ${variantName(file.variant)} first`),
      h("a", { class: "button chief", href: `/api/baked/${file.id}/file.glb`, download: "" }, `Download GLB (${size})`),
    ),
    h(
      "p",
      {},
      h("strong", {}, `${inSteps(file.mean)} of 255`),
      ` is how far a pixel is from the graph's own, as the mean of four sides. It holds ${counted(file.pictures, "picture")}.`,
    ),
    h(
      "figure",
      {},
      h("img", {
        src: `/api/baked/${file.id}/sides.png`,
        alt: "The graph from four sides, and below it the baked material",
        width: 768,
        height: 384,
      }),
      h(
        "figcaption",
        { class: "sides" },
        file.sides.map((side, at) => h("span", {}, `${FROM[at]} ${inSteps(side)}`)),
      ),
      h("p", { class: "quiet" }, "Above the graph, below what was baked, in the graph's own light."),
    ),
    file.words.length ? h("ul", {}, ...file.words.map((words) => h("li", {}, words))) : "",
  );
}

const load = newest(
  () => getJson(`/api/graphs/${graph}/baked`),
  (/** @type {{ files: BakedFileState[] }} */ { files }) => {
    const nothing = h(
      "p",
      { class: "nothing quiet" },
      "Nothing is baked yet. Bake makes a file of the form with its material, says what it cannot carry, and how far it differs.",
    );
    byId("baked-files").replaceChildren(...(files.length ? files.map(cardOf) : [nothing]));
  },
);

/** Shows what is chosen. */
export function follow() {
  const options = [...asked(["variant", "size", "padding", "moment"])];
  if (!chosen("variants")) options.push(["alone", ""]);
  asCommand("out/", [["as", "baked"], ...options]);
  return load();
}

/** Bakes by what is chosen; resolves once that is shown. */
export async function bake() {
  const moment = chosen("moment");
  const job = await postJson(`/api/graphs/${graph}/baked`, {
    size: Number(chosen("size")),
    padding: Number(chosen("padding")),
    moment: moment === "" ? null : Number(moment),
    variant: chosen("variant"),
    has_variants: !!chosen("variants"),
  });
  const button = byId("bake");
  button.disabled = true;
  try {
    if (await done(job)) await load();
  } finally {
    button.disabled = false;
  }
}
