/** A stack of steps as the room knows it. One that was just begun is kept by the server from its first edit on. */
import { DocumentModel } from "moth/base/document_model.js";
import { postJson } from "moth/base/api.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeState} RecipeState */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */

/** @extends {DocumentModel<RecipeState, StackOperation>} */
export class StackModel extends DocumentModel {
  /** @param {RecipeState} state with the id 0 where the server does not have it yet */
  constructor(state) {
    super(`/api/recipes/${state.id}`, "stack");
    this.state = state;
    /** The stack with a value that is being dragged. @type {Recipe | null} */
    this.live = null;
  }

  /** @param {Recipe} recipe */
  static begun(recipe) {
    return new StackModel({ id: 0, revision: 0, recipe, textures: {}, is_made: false, undo: "", redo: "" });
  }

  /** The stack as it is seen. */
  get recipe() {
    return this.live ?? this.state.recipe;
  }

  /** @param {RecipeState} state */
  take(state) {
    this.live = null;
    super.take(state);
  }

  dropped() {
    this.live = null;
    super.dropped();
  }

  /**
   * @param {string} step
   * @param {Record<string, unknown>} body
   * @returns {Promise<RecipeState>}
   */
  async send(step, body) {
    if (!this.state.id) {
      this.state = await postJson("/api/recipes", { recipe: this.state.recipe });
      this.url = `/api/recipes/${this.state.id}`;
      this.dispatchEvent(new Event("kept"));
    }
    return super.send(step, body);
  }

  /**
   * Sets something on a step; nothing takes it back to its default.
   * @param {string} step
   * @param {string} setting
   * @param {unknown} value
   */
  set(step, setting, value) {
    return this.edit({ op: "set_step_setting", step, setting, value: value ?? null });
  }

  /**
   * Shows a value at once without telling the server.
   * @param {string} step
   * @param {string} setting
   * @param {unknown} value
   */
  drag(step, setting, value) {
    this.live = structuredClone(this.recipe);
    const found = this.live.steps.find(({ id }) => id === step);
    if (found) found.values[setting] = value;
    this.dispatchEvent(new Event("dragged"));
  }

  /** Makes the textures of the stack as it is. */
  make() {
    return this.ask("make");
  }

  /** @param {import("../types.d.ts").News} news */
  catchUp({ stack, revision, words }) {
    if (!stack || stack !== this.state.id) return;
    void this.enqueue(async () => {
      if (revision <= this.state.revision) return true;
      this.elsewhere = words;
      return this.fetch();
    });
  }
}
