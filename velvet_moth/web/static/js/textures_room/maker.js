/** The stack of steps a texture is made by: every edit is kept and seen at once, the textures are made when asked. */
import { menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { StepFields } from "moth/textures_room/step_fields.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeStep} RecipeStep */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("./stack_view.js").StackView} StackView */

export class Maker {
  /**
   * @param {HTMLElement} place
   * @param {StackView} view
   * @param {() => void} unwanted called where the stack is to be deleted
   */
  constructor(place, view, unwanted) {
    this.place = place;
    this.view = view;
    this.unwanted = unwanted;
    this.fields = new StepFields(view, () => this.draw());
    view.addEventListener("changed", () => this.draw());
    view.addEventListener("seen", () => this.#refresh());
    place.addEventListener("keydown", (event) => this.#key(event));
  }

  draw() {
    const { recipe, model } = this.view;
    if (!recipe || !model) return this.place.replaceChildren();
    const typing = typingIn(this.place);
    const button = (/** @type {string} */ words, /** @type {() => void} */ act, off = false, title = "") =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          onclick: act,
          disabled: off,
          title,
          data: { focus: `maker ${words}` },
        },
        words,
      );
    const name = h("input", {
      class: "field",
      value: recipe.name,
      maxlength: 80,
      "aria-label": "Name of the stack",
      data: { focus: "name" },
    });
    name.addEventListener("change", () => {
      if (name.value.trim()) void this.view.edit({ op: "set_stack_name", name: name.value });
      else name.value = recipe.name;
    });
    this.place.replaceChildren(
      h(
        "div",
        { class: "maker-head" },
        name,
        this.#sizes(recipe),
        button("Undo", () => void model.undo(), !model.state.undo, model.state.undo),
        button("Redo", () => void model.redo(), !model.state.redo, model.state.redo),
        button("Save stack", () => this.#save(), false, "Save it as a file"),
        model.state.id && !Object.keys(model.state.textures).length
          ? button("Delete", () => this.unwanted(), false, "Delete this stack")
          : null,
        h(
          "button",
          {
            type: "button",
            class: "button small chief",
            disabled: !this.view.isChanged,
            title: this.view.isChanged ? "Make the textures as the stack is now" : "The textures are as the stack is",
            onclick: () => void this.view.make(),
            data: { focus: "make" },
          },
          "Make textures",
        ),
      ),
      h(
        "ol",
        { class: "steps", "aria-label": "Steps, the first at the top" },
        recipe.steps.map((step, at) => this.#row(step, at)),
      ),
      h(
        "button",
        {
          type: "button",
          class: "button small",
          id: "add-step",
          onclick: (/** @type {Event} */ e) => this.#add(e),
          data: { focus: "add" },
        },
        "Add a step",
      ),
    );
    this.#refresh();
    typing();
  }

  /** The stack as a file, which ./moth texture makes without a browser. */
  #save() {
    const file = new Blob([JSON.stringify(this.view.recipe, null, 1)], { type: "application/json" });
    const link = h("a", { href: URL.createObjectURL(file), download: "stack.json" });
    link.click();
    URL.revokeObjectURL(link.href);
  }

  /** What a look has told, without making anything anew that may have the keyboard. */
  #refresh() {
    for (const row of this.place.querySelectorAll("[data-step]")) {
      const id = /** @type {HTMLElement} */ (row).dataset.step ?? "";
      const picture = /** @type {HTMLImageElement} */ (row.querySelector("img"));
      const small = this.view.seen.small[id];
      picture.hidden = !small;
      if (small && picture.src !== small) picture.src = small;
      const wrong = /** @type {HTMLElement} */ (row.querySelector(".step-wrong"));
      wrong.textContent = this.view.seen.problems[id] ?? "";
      wrong.hidden = !wrong.textContent;
    }
    this.fields.tiles.refresh(this.place);
  }

  /** @param {Recipe} recipe */
  #sizes(recipe) {
    return ["Width", "Height"].map((label, side) => {
      const options = this.view.settings.sizes.map((size) =>
        h("option", { value: size, selected: size === recipe.size[side] }, String(size)),
      );
      const choose = h(
        "select",
        { class: "field", "aria-label": `${label} in pixels`, data: { focus: label } },
        options,
      );
      choose.addEventListener("change", () => {
        const size = recipe.size.with(side, Number(choose.value));
        void this.view.edit({ op: "set_stack_size", columns: size[0], rows: size[1] });
      });
      return choose;
    });
  }

  /**
   * @param {RecipeStep} step
   * @param {number} at
   */
  #row(step, at) {
    const kind = /** @type {StepKind} */ (this.view.kinds.get(step.step));
    const isOpen = step.id === this.view.chosen;
    const move = (/** @type {number} */ by) => void this.view.edit({ op: "move_step", id: step.id, place: at + by });
    const small = (
      /** @type {string} */ words,
      /** @type {string} */ sign,
      /** @type {() => void} */ act,
      /** @type {boolean} */ off,
    ) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-label": `${words}: ${kind.name}`,
          title: words,
          disabled: off,
          onclick: act,
          data: { focus: `${words} ${step.id}` },
        },
        sign,
      );
    const count = this.view.recipe?.steps.length ?? 0;
    return h(
      "li",
      { class: isOpen ? "making-step open" : "making-step", data: { step: step.id } },
      h(
        "div",
        { class: "step-head" },
        h(
          "button",
          {
            type: "button",
            class: "step-name",
            "aria-expanded": String(isOpen),
            onclick: () => this.view.choose(step.id),
            data: { focus: `step ${step.id}` },
          },
          h("img", { alt: "", width: 34, height: 34 }),
          h("span", {}, kind.name),
        ),
        small("Move up", "↑", () => move(-1), at === 0),
        small("Move down", "↓", () => move(1), at === count - 1),
        small("Remove", "×", () => void this.view.remove(step.id), count === 1),
      ),
      h("p", { class: "step-wrong", hidden: true }),
      isOpen ? this.fields.of(step, kind, at) : null,
    );
  }

  /** @param {Event} event */
  #add(event) {
    const anchor = /** @type {HTMLElement} */ (event.currentTarget);
    const groups = this.view.settings.groups.map(
      (group) => /** @type {[string, () => void]} */ ([`${group} …`, () => this.#addOf(group, anchor)]),
    );
    menu(anchor, groups);
  }

  /** @param {string} group @param {HTMLElement} anchor */
  #addOf(group, anchor) {
    const kinds = this.view.settings.steps.filter((kind) => kind.group === group);
    menu(
      document.getElementById("add-step") ?? anchor,
      kinds.map((kind) => [kind.name, () => void this.view.add(kind.key)]),
    );
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key === "z" && !event.shiftKey) void this.view.model?.undo();
    else if (key === "y" || (key === "z" && event.shiftKey)) void this.view.model?.redo();
    else if (key === "s") void this.view.make();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}

/**
 * What gives the keyboard back to where it is now once a place is drawn again, with what is typed there and not sent.
 * @param {HTMLElement} place
 */
function typingIn(place) {
  const field = /** @type {HTMLInputElement | null} */ (document.activeElement);
  const focus = place.contains(field) ? field?.dataset.focus : undefined;
  const isTyped = field instanceof HTMLInputElement && field.type !== "checkbox" && field.value !== field.defaultValue;
  const typed = isTyped ? field.value : null;
  return () => {
    if (!focus) return;
    const found = /** @type {HTMLInputElement | null} */ (place.querySelector(`[data-focus="${CSS.escape(focus)}"]`));
    found?.focus();
    if (found && typed !== null) found.value = typed;
  };
}
