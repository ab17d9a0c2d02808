/** A stack of steps as a room knows it. */
import { postJson } from "moth/base/api.js";
import { DocumentModel } from "moth/base/document_model.js";
import { done } from "moth/base/jobs.js";

/** @typedef {import("../types.d.ts").RecipeState} RecipeState */
/** @typedef {import("../types.d.ts").MeshStackState} MeshStackState */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */

/**
 * @template {RecipeState | MeshStackState} State
 * @extends {DocumentModel<State, StackOperation>}
 */
export class StackModel extends DocumentModel {
  /**
   * @param {string} url
   * @param {State} state
   */
  constructor(url, state) {
    super(url, "stack");
    this.state = state;
    /** The stack with a value that is being dragged. @type {State["stack"] | null} */
    this.live = null;
  }

  /** The stack as it is seen. @type {State["stack"]} */
  get stack() {
    return this.live ?? this.state.stack;
  }

  /**
   * The server has begun to keep it.
   * @param {string} url
   * @param {State} state
   */
  keptAs(url, state) {
    [this.url, this.state] = [url, state];
    this.dispatchEvent(new Event("kept"));
  }

  /** @param {State} state */
  take(state) {
    this.live = null;
    super.take(state);
  }

  dropped() {
    this.live = null;
    super.dropped();
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
    this.live = structuredClone(this.stack);
    const found = this.live.steps.find(({ id }) => id === step);
    if (found) found.values[setting] = value;
    this.dispatchEvent(new Event("dragged"));
  }

  /** Has made what comes of the stack as it is, once the edits on their way are in. */
  async make() {
    /** @type {import("../types.d.ts").JobState | null} */
    let job = null;
    await this.enqueue(async () => {
      job = await postJson(`${this.url}/make`, { revision: this.state.revision });
      return true;
    });
    const isDone = job !== null && (await done(job));
    await this.load();
    return isDone;
  }

  /**
   * Another page has changed it, or this one in another tab.
   * @param {number} stack the one that was changed
   * @param {import("../types.d.ts").News} news
   */
  catchUp(stack, { revision, words }) {
    if (!stack || stack !== this.state.id) return;
    void this.enqueue(async () => {
      if (revision <= this.state.revision) return true;
      this.elsewhere = words;
      return this.fetch();
    });
  }
}
