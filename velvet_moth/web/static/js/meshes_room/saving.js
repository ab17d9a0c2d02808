/** A mesh saved as a file of a format, with what goes along. */
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/**
 * @param {import("../types.d.ts").MeshFacts} facts
 * @param {{ formats: { key: string, name: string, keeps: string, levels: boolean }[], depths: string[] }} settings
 */
export function saveAs({ mesh, depth, levels }, { formats, depths }) {
  const format = h(
    "select",
    { class: "field", "aria-label": "Format" },
    formats.map(({ key, name }) => h("option", { value: key }, name)),
  );
  const kept = h("p", { class: "quiet" });
  const colours = h("input", { type: "checkbox", checked: true });
  const kind = h(
    "select",
    { class: "field", "aria-label": "Depth of the colours" },
    depths.map((one) => h("option", { value: one, selected: one === (depth || "float") }, one)),
  );
  const along = h("input", { type: "checkbox", checked: levels.length > 0 });
  const withLevels = h("label", {}, along, h("span", {}, `Its ${levels.length} levels of detail`));
  const show = () => {
    const chosen = formats.find(({ key }) => key === format.value);
    kept.textContent = `Keeps ${chosen?.keeps}.`;
    withLevels.hidden = !levels.length || !chosen?.levels;
  };
  format.addEventListener("change", show);
  show();
  const form = h(
    "form",
    { class: "save-mesh", method: "dialog" },
    h("label", {}, h("span", {}, "Format"), format),
    kept,
    h("label", {}, colours, h("span", {}, "Colours at the vertices, in"), kind),
    withLevels,
    h("p", { class: "quiet" }, "In metres, with Y up."),
    h("button", { class: "button chief", value: "save" }, "Save"),
  );
  form.addEventListener("submit", () => {
    const asked = new URLSearchParams({
      colours: String(colours.checked),
      depth: kind.value,
      levels: String(along.checked && !withLevels.hidden),
    });
    location.assign(`/api/meshes/${mesh.id}/as/${format.value}?${asked}`);
  });
  sheet(`Save ${mesh.name}`, form);
}
