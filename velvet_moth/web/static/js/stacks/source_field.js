/** Choosing where something comes from: a layer of a step above, or a texture of the project. */
import { h } from "moth/base/dom.js";

/** @typedef {import("../types.d.ts").StepKind} StepKind */

/**
 * @param {import("./stack_view.js").StackView<any, any>} view
 * @param {number} at the place of the step that takes it
 * @param {{ kind: import("../types.d.ts").Setting["kind"], now: unknown, none: string, label: string, focus: string, set: (value: unknown) => void }} options
 *   `none` are the words for choosing nothing, which sets null
 */
export function sourceField(view, at, { kind, now, none, label, focus, set }) {
  const chosen = now ? JSON.stringify(now) : "";
  const above = view.steps.slice(0, at).flatMap(({ id, step: key }, index) => {
    const from = /** @type {StepKind} */ (view.kinds.get(key));
    if (from.reshapes) return [];
    return from.layers.flatMap((layer, i) =>
      from.gives[layer] === kind
        ? {
            value: JSON.stringify(i ? { step: id, layer } : { step: id }),
            words: `${index + 1} ${from.name}${i ? `: ${layer.replaceAll("_", " ")}` : ""}`,
          }
        : [],
    );
  });
  const known = kind === "picture" || kind === "texture" ? view.textures() : [];
  const textures = known.map(({ id, name }) => ({ value: JSON.stringify({ texture: id }), words: name }));
  const option = (/** @type {{ value: string, words: string }} */ { value, words }) =>
    h("option", { value, selected: value === chosen }, words);
  const found = h(
    "select",
    { class: "field", "aria-label": label, data: { focus } },
    h("option", { value: "" }, none),
    above.length ? h("optgroup", { label: "Steps above" }, above.map(option)) : null,
    textures.length ? h("optgroup", { label: "Textures" }, textures.map(option)) : null,
  );
  found.addEventListener("change", () => set(found.value ? JSON.parse(found.value) : null));
  return found;
}
