/** The stack of steps a texture is made by: changed in place, seen at once, kept when asked. */
import { postJson } from "moth/api.js";
import { menu } from "moth/dialogs.js";
import { h } from "moth/dom.js";
import { notice, tell } from "moth/notices.js";
import { StepFields } from "moth/textures_room/step_fields.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeStep} RecipeStep */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */
/** @typedef {import("../types.d.ts").AtlasGrid} AtlasGrid */

const MOST_UNDONE = 200;

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
    /** @type {Recipe | null} */
    this.recipe = null;
    this.id = 0;
    this.revision = 0;
    /** As it was last kept, as text. */
    this.kept = "";
    /** @type {string[]} */
    this.past = [];
    /** @type {string[]} */
    this.future = [];
    this.chosen = "";
    this.layer = "";
    /** @type {{ problems: Record<string, string>, small: Record<string, string>, atlas?: AtlasGrid | null }} */
    this.seen = { problems: {}, small: {} };
    this.isLooking = false;
    this.isStale = false;
    /** The stack from before a drag that is going on. @type {string | undefined} */
    this.dragged = undefined;
    this.fields = new StepFields(this);
    place.addEventListener("keydown", (event) => this.#key(event));
  }

  get isOpen() {
    return this.recipe !== null;
  }

  get isChanged() {
    return this.recipe !== null && JSON.stringify(this.recipe) !== this.kept;
  }

  /** Whether something would be lost: a stack just begun from holds nothing of one's own. */
  get isUnkept() {
    return this.isChanged && (this.id > 0 || this.past.length > 0);
  }

  /**
   * @param {Recipe} recipe
   * @param {{ id?: number, revision?: number, output?: string }} [known] where it is kept already
   */
  open(recipe, { id = 0, revision = 0, output = "" } = {}) {
    this.recipe = structuredClone(recipe);
    [this.id, this.revision] = [id, revision];
    this.kept = id ? JSON.stringify(this.recipe) : "";
    [this.past, this.future] = [[], []];
    const made = recipe.outputs.find((one) => one.id === output);
    this.chosen = made?.step ?? recipe.steps[recipe.steps.length - 1].id;
    this.layer = made?.layer ?? "";
    this.seen = { problems: {}, small: {} };
    this.draw();
    void this.look();
  }

  close() {
    this.recipe = null;
    this.place.replaceChildren();
  }

  get #step() {
    return this.recipe?.steps.find((step) => step.id === this.chosen);
  }

  /**
   * One change of the stack, which undo takes back.
   * @param {(recipe: Recipe) => void} act
   * @param {boolean} [isDrag] whether it goes on: only the picture follows
   */
  change(act, isDrag = false) {
    if (!this.recipe) return;
    const before = JSON.stringify(this.recipe);
    act(this.recipe);
    if (!isDrag) {
      this.past.push(this.dragged ?? before);
      this.past.splice(0, this.past.length - MOST_UNDONE);
      this.future = [];
      this.dragged = undefined;
      this.draw();
    } else this.dragged ??= before;
    void this.look();
  }

  /** @param {string[]} from @param {string[]} to */
  #turn(from, to) {
    const state = from.pop();
    if (!state || !this.recipe) return;
    to.push(JSON.stringify(this.recipe));
    this.recipe = JSON.parse(state);
    if (!this.#step) this.chosen = this.recipe?.steps.at(-1)?.id ?? "";
    this.draw();
    void this.look();
  }

  undo() {
    this.#turn(this.past, this.future);
  }

  redo() {
    this.#turn(this.future, this.past);
  }

  /** Has the chosen step shown; while one answer is on its way, only the newest question waits. */
  async look() {
    if (this.isLooking) return void (this.isStale = true);
    this.isLooking = true;
    do {
      this.isStale = false;
      if (!this.recipe) break;
      const [recipe, step, layer] = [this.recipe, this.chosen, this.layer];
      try {
        const answer = await postJson("/api/recipes/preview", { recipe, step, layer, most: 512 });
        if (this.recipe !== recipe || this.isStale) continue;
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

  async keep() {
    const { recipe, id, revision } = this;
    if (!recipe) return;
    if (!recipe.outputs.length) {
      notice("This stack has no output.", {
        mend: "Tick a texture at one of its steps first.",
        wrong: true,
      });
      return;
    }
    try {
      const answer = await postJson(id ? `/api/recipes/${id}` : "/api/recipes", id ? { recipe, revision } : { recipe });
      [this.id, this.revision] = [answer.id, answer.revision];
      this.kept = JSON.stringify(recipe);
      this.draw();
      this.dispatchEvent(new CustomEvent("kept", { detail: answer }));
    } catch (error) {
      tell(error);
    }
  }

  draw() {
    const { recipe } = this;
    if (!recipe) return;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const button = (/** @type {string} */ words, /** @type {() => void} */ act, /** @type {boolean} */ off = false) =>
      h(
        "button",
        { type: "button", class: "button small", onclick: act, disabled: off, data: { focus: `maker ${words}` } },
        words,
      );
    const name = h("input", { class: "field", value: recipe.name, maxlength: 80, "aria-label": "Name of the stack" });
    name.addEventListener("change", () => this.change((r) => (r.name = name.value.trim() || r.name)));
    this.place.replaceChildren(
      h(
        "div",
        { class: "maker-head" },
        name,
        this.#sizes(recipe),
        button("Undo", () => this.undo(), !this.past.length),
        button("Redo", () => this.redo(), !this.future.length),
        button("Save stack", () => this.#save()),
        h(
          "button",
          {
            type: "button",
            class: "button small chief",
            disabled: !this.isChanged,
            onclick: () => void this.keep(),
            data: { focus: "keep" },
          },
          this.id ? "Keep" : "Make textures",
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
    if (focus)
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
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
      choose.addEventListener("change", () => this.change((r) => (r.size[side] = Number(choose.value))));
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
    const move = (/** @type {number} */ by) =>
      this.change(({ steps }) => steps.splice(at + by, 0, ...steps.splice(at, 1)));
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
    this.change((recipe) => {
      const at = recipe.steps.findIndex((step) => step.id === id);
      recipe.steps.splice(at, 1);
      recipe.outputs = recipe.outputs.filter((output) => output.step !== id);
      for (const { values } of recipe.steps) withoutStep(values, id);
      if (this.chosen === id) this.chosen = recipe.steps[Math.max(0, at - 1)].id;
    });
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
      kinds.map((kind) => [kind.name, () => this.#insert(kind.key)]),
    );
  }

  /** @param {string} kind */
  #insert(kind) {
    this.change((recipe) => {
      const taken = new Set(recipe.steps.map((step) => step.id));
      let number = 1;
      while (taken.has(`${kind.slice(0, 24)}_${number}`)) number += 1;
      const id = `${kind.slice(0, 24)}_${number}`;
      const at = recipe.steps.findIndex((step) => step.id === this.chosen);
      recipe.steps.splice(at + 1, 0, { id, step: kind, values: {} });
      this.chosen = id;
      this.layer = "";
    });
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key === "z" && !event.shiftKey) this.undo();
    else if (key === "y" || (key === "z" && event.shiftKey)) this.redo();
    else if (key === "s") void this.keep();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}

/**
 * Takes away every picture that comes from a step, in tiles too.
 * @param {Record<string, any>} held
 * @param {string} id
 */
function withoutStep(held, id) {
  for (const [key, value] of Object.entries(held)) {
    if (value?.step === id) delete held[key];
    else if (Array.isArray(value)) value.forEach((tile) => tile?.maps && withoutStep(tile.maps, id));
  }
}
