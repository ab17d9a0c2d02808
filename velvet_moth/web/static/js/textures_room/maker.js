/** The stack of steps a texture is made by: every edit is kept and seen at once, the textures are made when asked. */
import { postJson } from "moth/api.js";
import { menu } from "moth/dialogs.js";
import { h } from "moth/dom.js";
import { tell } from "moth/notices.js";
import { StepFields } from "moth/textures_room/step_fields.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeStep} RecipeStep */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */
/** @typedef {import("./stack_model.js").StackModel} StackModel */
/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */
/** @typedef {import("../types.d.ts").AtlasGrid} AtlasGrid */

export class Maker extends EventTarget {
  /**
   * @param {HTMLElement} place
   * @param {{ steps: StepKind[], groups: string[], sizes: number[], depths: string[] }} settings
   * @param {() => TextureInfo[]} textures those of the project
   */
  constructor(place, settings, textures) {
    super();
    this.place = place;
    this.settings = settings;
    this.kinds = new Map(settings.steps.map((kind) => [kind.key, kind]));
    this.textures = textures;
    /** @type {StackModel | null} */
    this.model = null;
    this.chosen = "";
    this.layer = "";
    /** @type {{ problems: Record<string, string>, small: Record<string, string>, atlas?: AtlasGrid | null }} */
    this.seen = { problems: {}, small: {} };
    this.isLooking = false;
    this.isStale = false;
    this.fields = new StepFields(this);
    place.addEventListener("keydown", (event) => this.#key(event));
  }

  get isOpen() {
    return this.model !== null;
  }

  get recipe() {
    return this.model?.recipe ?? null;
  }

  get id() {
    return this.model?.state.id ?? 0;
  }

  /** Whether the textures are not what the stack would make now. */
  get isChanged() {
    return this.model !== null && !this.model.state.is_made;
  }

  /**
   * @param {StackModel} model
   * @param {string} [output] the one whose step is looked at
   */
  open(model, output = "") {
    this.model = model;
    const { steps, outputs } = model.recipe;
    const made = outputs.find((one) => one.id === output);
    this.chosen = made?.step ?? steps[steps.length - 1].id;
    this.layer = made?.layer ?? "";
    this.seen = { problems: {}, small: {} };
    const isStill = () => this.model === model;
    model.addEventListener("state", () => isStill() && this.#taken());
    model.addEventListener("dragged", () => isStill() && void this.look());
    model.addEventListener("kept", () => isStill() && this.dispatchEvent(new Event("begun")));
    this.draw();
    void this.look();
  }

  close() {
    this.model = null;
    this.place.replaceChildren();
  }

  #taken() {
    if (!this.#step) this.chosen = this.recipe?.steps.at(-1)?.id ?? "";
    this.dispatchEvent(new Event("taken"));
    this.draw();
    void this.look();
  }

  get #step() {
    return this.recipe?.steps.find((step) => step.id === this.chosen);
  }

  /**
   * @param {StackOperation} operation
   * @returns {Promise<boolean>}
   */
  async edit(operation) {
    return (await this.model?.edit(operation)) ?? false;
  }

  /** Has the chosen step shown; while one answer is on its way, only the newest question waits. */
  async look() {
    if (this.isLooking) return void (this.isStale = true);
    this.isLooking = true;
    do {
      this.isStale = false;
      if (!this.recipe) break;
      const { model, recipe, chosen: step, layer } = this;
      try {
        const answer = await postJson("/api/recipes/preview", { recipe, step, layer, most: 512 });
        if (this.model !== model || this.isStale) continue;
        this.seen = answer;
        this.#refresh();
        this.dispatchEvent(new CustomEvent("seen", { detail: answer }));
      } catch (error) {
        tell(error);
      }
    } while (this.isStale);
    this.isLooking = false;
    this.dispatchEvent(new Event("still"));
  }

  async make() {
    const { model } = this;
    if (!(await model?.make()) || this.model !== model) return;
    this.dispatchEvent(new CustomEvent("made", { detail: model?.state }));
  }

  draw() {
    const { recipe, model } = this;
    if (!recipe || !model) return;
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
      if (name.value.trim()) void this.edit({ op: "set_stack_name", name: name.value });
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
          ? button("Delete", () => this.dispatchEvent(new Event("unwanted")), false, "Delete this stack")
          : null,
        h(
          "button",
          {
            type: "button",
            class: "button small chief",
            disabled: !this.isChanged,
            title: this.isChanged ? "Make the textures as the stack is now" : "The textures are as the stack is",
            onclick: () => void this.make(),
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
    const file = new Blob([JSON.stringify(this.recipe, null, 1)], { type: "application/json" });
    const link = h("a", { href: URL.createObjectURL(file), download: "stack.json" });
    link.click();
    URL.revokeObjectURL(link.href);
  }

  /** What a look has told, without making anything anew that may have the keyboard. */
  #refresh() {
    for (const row of this.place.querySelectorAll("[data-step]")) {
      const id = /** @type {HTMLElement} */ (row).dataset.step ?? "";
      const picture = /** @type {HTMLImageElement} */ (row.querySelector("img"));
      const small = this.seen.small[id];
      picture.hidden = !small;
      if (small && picture.src !== small) picture.src = small;
      const wrong = /** @type {HTMLElement} */ (row.querySelector(".step-wrong"));
      wrong.textContent = this.seen.problems[id] ?? "";
      wrong.hidden = !wrong.textContent;
    }
    this.fields.tiles.refresh(this.place);
  }

  /** @param {Recipe} recipe */
  #sizes(recipe) {
    return ["Width", "Height"].map((label, side) => {
      const options = this.settings.sizes.map((size) =>
        h("option", { value: size, selected: size === recipe.size[side] }, String(size)),
      );
      const choose = h(
        "select",
        { class: "field", "aria-label": `${label} in pixels`, data: { focus: label } },
        options,
      );
      choose.addEventListener("change", () => {
        const size = recipe.size.with(side, Number(choose.value));
        void this.edit({ op: "set_stack_size", columns: size[0], rows: size[1] });
      });
      return choose;
    });
  }

  /**
   * @param {RecipeStep} step
   * @param {number} at
   */
  #row(step, at) {
    const kind = /** @type {StepKind} */ (this.kinds.get(step.step));
    const isOpen = step.id === this.chosen;
    const move = (/** @type {number} */ by) => void this.edit({ op: "move_step", id: step.id, place: at + by });
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
    const count = this.recipe?.steps.length ?? 0;
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
            onclick: () => this.choose(step.id),
            data: { focus: `step ${step.id}` },
          },
          h("img", { alt: "", width: 34, height: 34 }),
          h("span", {}, kind.name),
        ),
        small("Move up", "↑", () => move(-1), at === 0),
        small("Move down", "↓", () => move(1), at === count - 1),
        small("Remove", "×", () => this.#remove(step.id), count === 1),
      ),
      h("p", { class: "step-wrong", hidden: true }),
      isOpen ? this.fields.of(step, kind, at) : null,
    );
  }

  /** @param {string} id */
  choose(id) {
    this.chosen = id;
    this.layer = "";
    this.draw();
    void this.look();
  }

  /** @param {string} id */
  #remove(id) {
    const at = this.recipe?.steps.findIndex((step) => step.id === id) ?? 0;
    if (this.chosen === id) this.chosen = this.recipe?.steps[at ? at - 1 : 1]?.id ?? "";
    void this.edit({ op: "remove_step", id });
  }

  /** @param {Event} event */
  #add(event) {
    const anchor = /** @type {HTMLElement} */ (event.currentTarget);
    const groups = this.settings.groups.map(
      (group) => /** @type {[string, () => void]} */ ([`${group} …`, () => this.#addOf(group, anchor)]),
    );
    menu(anchor, groups);
  }

  /** @param {string} group @param {HTMLElement} anchor */
  #addOf(group, anchor) {
    const kinds = this.settings.steps.filter((kind) => kind.group === group);
    menu(
      document.getElementById("add-step") ?? anchor,
      kinds.map((kind) => [kind.name, () => void this.#insert(kind.key)]),
    );
  }

  /** @param {string} kind */
  async #insert(kind) {
    const { model } = this;
    const before = new Set(this.recipe?.steps.map((step) => step.id));
    const place = (this.recipe?.steps.findIndex((step) => step.id === this.chosen) ?? -1) + 1;
    if (!(await this.edit({ op: "add_step", step: kind, place })) || this.model !== model) return;
    const made = this.recipe?.steps.find((step) => !before.has(step.id));
    if (made) this.choose(made.id);
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key === "z" && !event.shiftKey) void this.model?.undo();
    else if (key === "y" || (key === "z" && event.shiftKey)) void this.model?.redo();
    else if (key === "s") void this.make();
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
