/** The stack of steps a texture is made by: changed in place, seen at once, kept when asked. */
import { postJson } from "moth/api.js";
import { menu } from "moth/dialogs.js";
import { h } from "moth/dom.js";
import { colourField, numbersField } from "moth/fields.js";
import { notice, tell } from "moth/notices.js";
import { stopsField } from "moth/stops.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeStep} RecipeStep */
/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").StepSetting} StepSetting */
/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */

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
    /** @type {{ problems: Record<string, string>, small: Record<string, string> }} */
    this.seen = { problems: {}, small: {} };
    this.isLooking = false;
    this.isStale = false;
    /** The stack from before a drag that is going on. @type {string | undefined} */
    this.dragged = undefined;
    place.addEventListener("keydown", (event) => this.#key(event));
  }

  get isOpen() {
    return this.recipe !== null;
  }

  get isChanged() {
    return this.recipe !== null && JSON.stringify(this.recipe) !== this.kept;
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
      notice("Nothing would be made of this stack.", {
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
      isOpen ? this.#settings(step, kind, at) : null,
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
      for (const { values } of recipe.steps) {
        for (const [key, value] of Object.entries(values)) {
          if (/** @type {any} */ (value)?.step === id) delete values[key];
        }
      }
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

  /**
   * @param {RecipeStep} step
   * @param {StepKind} kind
   * @param {number} at
   */
  #settings(step, kind, at) {
    return h(
      "div",
      { class: "step-settings" },
      h("p", { class: "quiet" }, kind.help),
      kind.settings.map((setting) =>
        h(
          "div",
          { class: "setting", title: setting.words },
          h("span", { class: "setting-name" }, setting.name),
          this.#field(step, setting, at),
        ),
      ),
      kind.layers.map((layer) => this.#output(step, layer)),
    );
  }

  /**
   * @param {RecipeStep} step
   * @param {StepSetting} setting
   * @param {number} at
   */
  #field(step, setting, at) {
    const value = step.values[setting.key] ?? setting.default;
    const label = setting.name;
    const focus = `${step.id} ${setting.key}`;
    const set = (/** @type {unknown} */ next, /** @type {boolean} */ isDrag) =>
      this.change((recipe) => {
        const found = recipe.steps.find(({ id }) => id === step.id);
        if (found && (next === null || next === undefined)) delete found.values[setting.key];
        else if (found) found.values[setting.key] = next;
      }, isDrag);
    const both = {
      label,
      drag: (/** @type {any} */ v) => set(v, true),
      keep: (/** @type {any} */ v) => set(v, false),
      key: focus,
    };
    if (setting.kind === "colour") return colourField({ value: /** @type {number[]} */ (value), ...both });
    if (setting.kind === "stops")
      return stopsField({ value: /** @type {number[]} */ (value), kind: "gradient", ...both });
    if (setting.kind === "choice")
      return this.#choice(setting.choices, String(value), label, focus, (v) => set(v, false));
    if (setting.kind === "picture") return this.#source(step, setting, at, focus, (v) => set(v, false));
    return this.#number(setting, Number(value), both);
  }

  /**
   * @param {StepSetting} setting
   * @param {number} value
   * @param {{ label: string, key: string, drag: (value: number) => void, keep: (value: number) => void }} both
   */
  #number(setting, value, { label, key, drag, keep }) {
    const step = setting.kind === "whole" ? 1 : (setting.high - setting.low) / 200;
    const fit = (/** @type {number} */ v) => {
      const held = Math.min(setting.high, Math.max(setting.low, v));
      return setting.kind === "whole" ? Math.round(held) : Number(held.toPrecision(6));
    };
    const range = h("input", {
      type: "range",
      min: setting.low,
      max: setting.high,
      step,
      value: String(value),
      "aria-label": label,
      data: { focus: `${key} range` },
    });
    range.addEventListener("input", () => drag(fit(Number(range.value))));
    range.addEventListener("change", () => keep(fit(Number(range.value))));
    const typed = numbersField({
      value: [value],
      label: `${label}, typed`,
      step,
      key,
      drag: ([v]) => drag(fit(v)),
      keep: ([v]) => keep(fit(v)),
    });
    return h(
      "span",
      { class: "setting-number" },
      range,
      typed,
      setting.unit ? h("span", { class: "quiet" }, setting.unit) : null,
    );
  }

  /**
   * @param {string[]} choices
   * @param {string} value
   * @param {string} label
   * @param {string} focus
   * @param {(value: string) => void} set
   */
  #choice(choices, value, label, focus, set) {
    const options = choices.map((one) => h("option", { value: one, selected: one === value }, one));
    const found = h("select", { class: "field", "aria-label": label, data: { focus } }, options);
    found.addEventListener("change", () => set(found.value));
    return found;
  }

  /**
   * Where a picture is taken from: a step above, or a texture.
   * @param {RecipeStep} step
   * @param {StepSetting} setting
   * @param {number} at
   * @param {string} focus
   * @param {(value: unknown) => void} set
   */
  #source(step, setting, at, focus, set) {
    const isFirst = this.kinds.get(step.step)?.settings.find((s) => s.kind === "picture") === setting;
    const none = setting.optional ? "none" : isFirst && at ? "the step above" : "choose …";
    const now = step.values[setting.key] ? JSON.stringify(step.values[setting.key]) : "";
    const above = (this.recipe?.steps ?? []).slice(0, at).flatMap(({ id, step: key }, index) => {
      const kind = /** @type {StepKind} */ (this.kinds.get(key));
      return kind.layers.map((layer, i) => ({
        value: JSON.stringify(i ? { step: id, layer } : { step: id }),
        words: `${index + 1} ${kind.name}${i ? `: ${layer.replaceAll("_", " ")}` : ""}`,
      }));
    });
    const textures = this.textures().map(({ id, name }) => ({ value: JSON.stringify({ texture: id }), words: name }));
    const option = (/** @type {{ value: string, words: string }} */ { value, words }) =>
      h("option", { value, selected: value === now }, words);
    const found = h(
      "select",
      { class: "field", "aria-label": `${setting.name} comes from`, data: { focus } },
      h("option", { value: "" }, none),
      above.length ? h("optgroup", { label: "Steps above" }, above.map(option)) : null,
      textures.length ? h("optgroup", { label: "Textures" }, textures.map(option)) : null,
    );
    found.addEventListener("change", () => set(found.value ? JSON.parse(found.value) : null));
    return found;
  }

  /**
   * A layer of a step: looked at by a press, and made a texture by its box.
   * @param {RecipeStep} step
   * @param {string} layer
   */
  #output(step, layer) {
    const { recipe } = this;
    const known = recipe?.outputs.find((output) => output.step === step.id && output.layer === layer);
    const words = layer.replaceAll("_", " ");
    const focus = `${step.id} ${layer}`;
    const box = h("input", {
      type: "checkbox",
      checked: !!known,
      "aria-label": `Make a texture of ${words}`,
      data: { focus },
    });
    box.addEventListener("change", () =>
      this.change((r) => {
        if (!box.checked) r.outputs = r.outputs.filter((output) => output.step !== step.id || output.layer !== layer);
        else
          r.outputs.push({
            id: `${step.id.slice(0, 20)}_${layer}`.slice(0, 32),
            name: layer === "picture" ? r.name : `${r.name} ${words}`,
            step: step.id,
            layer,
            depth: this.settings.depths[0],
          });
      }),
    );
    const isSeen =
      this.layer === layer || (!this.layer && layer === "picture") || this.kinds.get(step.step)?.layers.length === 1;
    const see = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(isSeen),
        data: { focus: `${focus} see` },
        onclick: () => this.#see(layer),
      },
      words,
    );
    if (!known) return h("div", { class: "output" }, box, see);
    const name = h("input", {
      class: "field",
      value: known.name,
      maxlength: 80,
      "aria-label": `Name of the texture of ${words}`,
    });
    name.addEventListener("change", () => this.change(() => (known.name = name.value.trim() || known.name)));
    const depth = this.#choice(this.settings.depths, known.depth, `Depth of ${words}`, `${focus} depth`, (v) =>
      this.change(() => (known.depth = v)),
    );
    return h("div", { class: "output" }, box, see, name, depth);
  }

  /** @param {string} layer */
  #see(layer) {
    this.layer = layer;
    this.draw();
    void this.look();
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
