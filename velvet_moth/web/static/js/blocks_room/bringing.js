/** New block models of what is there: a mesh of the project, or a file of blocks. */
import { getJson, postForm, postJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/** About so many blocks along the longest side at first. */
const FIRST = 40;

/**
 * @param {import("../types.d.ts").BlockSettings} settings
 * @param {(asked: Promise<import("../types.d.ts").BlockModelInfo>) => void} made
 */
export async function newOfMesh(settings, made) {
  /** @type {{ meshes: import("../types.d.ts").MeshInfo[] }} */
  const { meshes } = await getJson("/api/meshes");
  const mesh = h(
    "select",
    { class: "field", "aria-label": "Mesh" },
    meshes.map(({ id, name }) => h("option", { value: id }, name)),
  );
  const size = h("input", { class: "field", type: "number", min: 0.001, max: 10, step: "any", required: true });
  const by = h(
    "select",
    { class: "field", "aria-label": "Entries by" },
    Object.entries(settings.entries_by).map(([key, name]) =>
      h("option", { value: key, selected: key === "colours" }, name),
    ),
  );
  const fit = () => {
    const found = meshes.find(({ id }) => id === mesh.value);
    if (found) size.value = String(Number((Math.max(...found.size) / FIRST).toPrecision(2)));
  };
  mesh.addEventListener("change", fit);
  fit();
  const form = h(
    "form",
    { class: "save-mesh", method: "dialog" },
    meshes.length
      ? h("label", {}, h("span", {}, "Mesh"), mesh)
      : h("p", {}, "There is no mesh yet: bring one in among the meshes."),
    h("label", {}, h("span", {}, "Side of a block"), size, h("span", { class: "quiet" }, "m")),
    h("label", {}, h("span", {}, "Entries by"), by),
    h("p", { class: "quiet" }, "A mesh that was sent out as blocks comes back as it was."),
    h("button", { class: "button chief", disabled: !meshes.length }, "Make blocks of it"),
  );
  form.addEventListener("submit", () =>
    made(postJson("/api/blocks/of_mesh", { mesh: mesh.value, size: size.valueAsNumber, by: by.value })),
  );
  sheet("New model of a mesh", form);
}

/**
 * A model of a file; of a picture it is asked how high white is.
 * @param {File} file
 * @param {import("../types.d.ts").BlockSettings} settings
 * @param {number} entry what all blocks are where the file does not say
 * @param {(asked: Promise<import("../types.d.ts").BlockModelInfo>) => void} made
 */
export function newOfFile(file, settings, entry, made) {
  const send = (/** @type {string} */ high) => made(postForm("/api/blocks/file", { file, high, entry: String(entry) }));
  if (!file.type.startsWith("image/")) return send("");
  const high = h("input", { class: "field", type: "number", min: 1, max: settings.side, value: "32", required: true });
  const form = h(
    "form",
    { class: "save-mesh", method: "dialog" },
    h("p", { class: "quiet" }, "Every pixel is a column of blocks, the higher the brighter it is; black is empty."),
    h("label", {}, h("span", {}, "Blocks high where it is white"), high),
    h("button", { class: "button chief" }, "Make blocks of it"),
  );
  form.addEventListener("submit", () => send(high.value));
  sheet(`Heights of ${file.name}`, form);
}
