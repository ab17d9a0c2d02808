/** The stack that is open: which of its steps is looked at, how it looks, and what is done to it. */
import { postJson } from "moth/base/api.js";
import { tell } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */
/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */
/** @typedef {import("../types.d.ts").AtlasGrid} AtlasGrid */
/** @typedef {import("./stack_model.js").StackModel} StackModel */

const MOST_PIXELS = 512;

/**
 * Its events:
 * - `changed`: draw it again;
 * - `seen`: a preview has come; `still`: no other preview is on its way;
 * - `taken`: the server has answered an edit;
 * - `begun`: the server keeps a stack that was new;
 * - `made`: its textures were made.
 */
export class StackView extends EventTarget {
  /**
   * @param {{ steps: StepKind[], groups: string[], sizes: number[], depths: string[] }} settings
   * @param {() => TextureInfo[]} textures those of the project
   */
  constructor(settings, textures) {
    super();
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

  /** @param {string} name */
  #say(name) {
    this.dispatchEvent(new Event(name));
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
    model.addEventListener("kept", () => isStill() && this.#say("begun"));
    this.#changed();
  }

  close() {
    this.model = null;
    this.#say("changed");
  }

  #taken() {
    const { recipe } = this;
    if (!recipe?.steps.some((step) => step.id === this.chosen)) this.chosen = recipe?.steps.at(-1)?.id ?? "";
    this.#say("taken");
    this.#changed();
  }

  #changed() {
    this.#say("changed");
    void this.look();
  }

  /** Looks at a step, and at one of its layers. @param {string} step @param {string} [layer] */
  choose(step, layer = "") {
    [this.chosen, this.layer] = [step, layer];
    this.#changed();
  }

  /**
   * @param {StackOperation} operation
   * @returns {Promise<boolean>}
   */
  async edit(operation) {
    return (await this.model?.edit(operation)) ?? false;
  }

  /** Puts a step below the chosen one, and looks at it. @param {string} kind */
  async add(kind) {
    const { model } = this;
    const before = new Set(this.recipe?.steps.map((step) => step.id));
    const place = (this.recipe?.steps.findIndex((step) => step.id === this.chosen) ?? -1) + 1;
    if (!(await this.edit({ op: "add_step", step: kind, place })) || this.model !== model) return;
    const made = this.recipe?.steps.find((step) => !before.has(step.id));
    if (made) this.choose(made.id);
  }

  /** @param {string} id */
  remove(id) {
    const at = this.recipe?.steps.findIndex((step) => step.id === id) ?? 0;
    if (this.chosen === id) this.chosen = this.recipe?.steps[at ? at - 1 : 1]?.id ?? "";
    return this.edit({ op: "remove_step", id });
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
        const answer = await postJson("/api/recipes/preview", { recipe, step, layer, most: MOST_PIXELS });
        if (this.model !== model || this.isStale) continue;
        this.seen = answer;
        this.dispatchEvent(new CustomEvent("seen", { detail: answer }));
      } catch (error) {
        tell(error);
      }
    } while (this.isStale);
    this.isLooking = false;
    this.#say("still");
  }

  async make() {
    const { model } = this;
    if (!(await model?.make()) || this.model !== model) return;
    this.dispatchEvent(new CustomEvent("made", { detail: model?.state }));
  }
}
