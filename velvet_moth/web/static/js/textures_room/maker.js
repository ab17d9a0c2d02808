/** The stack of steps a texture is made by: every edit is kept and seen at once, the textures are made when asked. */
import { h } from "moth/base/dom.js";
import { outputName, seeButton } from "moth/stacks/output_fields.js";
import { choiceField } from "moth/stacks/step_fields.js";
import { StepList, smallButton } from "moth/stacks/step_list.js";
import { TilesField } from "moth/textures_room/tiles_field.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {import("../types.d.ts").Preview} Preview */
/** @typedef {import("./recipe_model.js").RecipeModel} RecipeModel */
/** @typedef {import("../stacks/stack_view.js").StackView<RecipeModel, Preview>} RecipeView */

/**
 * @param {HTMLElement} place
 * @param {RecipeView} view
 * @param {number[]} sizes that a side may have
 * @param {() => void} unwanted called where the stack is to be deleted
 */
export function makerIn(place, view, sizes, unwanted) {
  const tiles = new TilesField(view, () => list.draw());
  /** @type {StepList} */
  const list = new StepList(place, view, {
    head: () => [
      ...(view.stack ? sizeFields(view, view.stack, sizes) : []),
      view.model?.state.id && !Object.keys(view.model.state.textures).length
        ? smallButton("Delete", unwanted, false, "Delete this stack")
        : null,
    ],
    make: {
      words: "Make textures",
      now: "Make the textures as the stack is now",
      done: "The textures are as the stack is",
    },
    save: "Save it as a file, which ./moth texture makes without a browser",
    fewest: 1,
    named: true,
    output: (step, layer) => outputOf(view, step, layer),
    tiles: (step, setting, at) => tiles.of(step, setting, at),
    refreshed: () => tiles.refresh(place),
  });
  return list;
}

/**
 * @param {RecipeView} view
 * @param {Recipe} recipe
 * @param {number[]} sizes
 */
function sizeFields(view, recipe, sizes) {
  return ["Width", "Height"].map((label, side) => {
    const options = sizes.map((size) =>
      h("option", { value: size, selected: size === recipe.size[side] }, String(size)),
    );
    const choose = h("select", { class: "field", "aria-label": `${label} in pixels`, data: { focus: label } }, options);
    choose.addEventListener("change", () => {
      const size = recipe.size.with(side, Number(choose.value));
      void view.edit({ op: "set_stack_size", columns: size[0], rows: size[1] });
    });
    return choose;
  });
}

/**
 * A layer of a step: looked at by a press, and made a texture by its box.
 * @param {RecipeView} view
 * @param {StackStepState} step
 * @param {string} layer
 */
function outputOf(view, step, layer) {
  const { stack } = view;
  const depths = view.settings.depths.map((one) => /** @type {[string, string]} */ ([one, one]));
  const known = stack?.outputs.find((output) => output.step === step.id && output.layer === layer);
  const words = layer.replaceAll("_", " ");
  const focus = `${step.id} ${layer}`;
  const box = h("input", {
    type: "checkbox",
    checked: !!known,
    "aria-label": `Make a texture of ${words}`,
    data: { focus },
  });
  box.addEventListener("change", () => {
    if (!known) void view.edit({ op: "add_output", step: step.id, layer });
    else void view.edit({ op: "remove_output", id: known.id });
  });
  const see = seeButton(view, step, layer);
  if (!known) return h("div", { class: "output" }, box, see);
  const name = outputName(view, known, `Name of the texture of ${words}`);
  const depth = choiceField(
    depths,
    known.depth,
    `Depth of ${words}`,
    `${focus} depth`,
    (depth) => void view.edit({ op: "edit_output", id: known.id, name: known.name, depth }),
  );
  return h("div", { class: "output" }, box, see, name, depth);
}
