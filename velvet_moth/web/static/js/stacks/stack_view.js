/** The stack that is open: which of its steps is looked at, how it looks, and what is done to it. */
import { tell } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").StepKind} StepKind */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */
/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */

/**
 * @typedef {{ problems: Record<string, string>, small: Record<string, string> }} Seen what a look gives at least
 * @typedef {{ steps: StepKind[], groups: string[], depths: string[] }} StackSettings
 */

/**
 * Its events:
 * - `changed`: draw it again;
 * - `seen`: a preview has come; `still`: no other preview is on its way;
 * - `taken`: the server has answered an edit;
 * - `begun`: the server keeps a stack that was new;
 * - `made`: what comes of it was made.
 * @template {import("./stack_model.js").StackModel<any>} Model
 * @template {Seen} [Answer=Seen]
 */
export class StackView extends EventTarget {
  /**
   * @param {StackSettings} settings
   * @param {() => TextureInfo[]} textures those of the project
   * @param {(model: Model, step: string, layer: string) => Promise<Answer>} ask has a step of the stack shown
   */
  constructor(settings, textures, ask) {
    super();
    this.settings = settings;
    this.kinds = new Map(settings.steps.map((kind) => [kind.key, kind]));
    this.textures = textures;
    this.ask = ask;
    /** @type {Model | null} */
    this.model = null;
    this.chosen = "";
    this.layer = "";
    /** @type {Answer} */
    this.seen = StackView.#nothing();
    this.isLooking = false;
    this.isStale = false;
  }

  /** @returns {any} */
  static #nothing() {
    return { problems: {}, small: {} };
  }

  get isOpen() {
    return this.model !== null;
  }

  /** @returns {Model["stack"] | null} */
  get stack() {
    return this.model?.stack ?? null;
  }

  /** @returns {import("../types.d.ts").StackStepState[]} */
  get steps() {
    return this.stack?.steps ?? [];
  }

  get id() {
    return this.model?.state.id ?? 0;
  }

  /** Whether what was made is not what the stack would make now. */
  get isChanged() {
    return this.model !== null && !this.model.state.is_made;
  }

  /** @param {string} name */
  #say(name) {
    this.dispatchEvent(new Event(name));
  }

  /**
   * @param {Model} model
   * @param {string} [output] the one whose step is looked at
   */
  open(model, output = "") {
    this.model = model;
    const { steps, outputs } = model.stack;
    const made = outputs.find((/** @type {{ id: string }} */ one) => one.id === output);
    this.chosen = made?.step ?? steps.at(-1)?.id ?? "";
    this.layer = made?.layer ?? "";
    this.seen = StackView.#nothing();
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
    const { steps } = this;
    if (!steps.some((step) => step.id === this.chosen)) this.chosen = steps.at(-1)?.id ?? "";
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
    const before = new Set(this.steps.map((step) => step.id));
    const place = this.steps.findIndex((step) => step.id === this.chosen) + 1;
    if (!(await this.edit({ op: "add_step", step: kind, place })) || this.model !== model) return;
    const made = this.steps.find((step) => !before.has(step.id));
    if (made) this.choose(made.id);
  }

  /** @param {string} id */
  remove(id) {
    const at = this.steps.findIndex((step) => step.id === id);
    if (this.chosen === id) this.chosen = this.steps[at ? at - 1 : 1]?.id ?? "";
    return this.edit({ op: "remove_step", id });
  }

  /** Has the chosen step shown; while one answer is on its way, only the newest question waits. */
  async look() {
    if (this.isLooking) return void (this.isStale = true);
    this.isLooking = true;
    do {
      this.isStale = false;
      const { model, chosen: step, layer } = this;
      if (!model) break;
      try {
        const answer = await this.ask(model, step, layer);
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
    const isMade = await model?.make();
    if (!isMade || this.model !== model) return;
    this.dispatchEvent(new CustomEvent("made", { detail: model?.state }));
  }
}
