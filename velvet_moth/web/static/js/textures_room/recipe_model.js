/** A stack that makes textures. One that was just begun is kept by the server from its first edit on. */
import { postJson } from "moth/base/api.js";
import { StackModel } from "moth/stacks/stack_model.js";

/** @typedef {import("../types.d.ts").Recipe} Recipe */
/** @typedef {import("../types.d.ts").RecipeState} RecipeState */

/** @extends {StackModel<RecipeState>} */
export class RecipeModel extends StackModel {
  /** @param {RecipeState} state with the id 0 where the server does not have it yet */
  constructor(state) {
    super(`/api/recipes/${state.id}`, state);
  }

  /** @param {Recipe} stack */
  static begun(stack) {
    return new RecipeModel({ id: 0, revision: 0, stack, textures: {}, is_made: false, undo: "", redo: "" });
  }

  /**
   * @param {string} step
   * @param {Record<string, unknown>} body
   * @returns {Promise<RecipeState>}
   */
  async send(step, body) {
    await this.#keep();
    return super.send(step, body);
  }

  async make() {
    await this.enqueue(async () => (await this.#keep(), true));
    return super.make();
  }

  async #keep() {
    if (this.state.id) return;
    const kept = await postJson("/api/recipes", { recipe: this.state.stack });
    this.keptAs(`/api/recipes/${kept.id}`, kept);
  }
}
