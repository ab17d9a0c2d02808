/** A brush with the strokes of a painted step: what painting has in common wherever a mesh is on a stage. */
import { getJson } from "moth/base/api.js";
import { tell } from "moth/base/notices.js";
import { Brush } from "moth/brush/brush.js";
import { BrushPanel } from "moth/brush/panel.js";

/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {import("../types.d.ts").StackOperation} StackOperation */
/** @typedef {import("../types.d.ts").StepKind} StepKind */

/**
 * What the page has open.
 * @typedef {{
 *   url: () => string,
 *   stack: () => { steps: StackStepState[], outputs: import("../types.d.ts").Output[] } | null | undefined,
 *   step: () => StackStepState | undefined,
 *   kinds: Map<string, StepKind>,
 *   edit: (operation: StackOperation) => Promise<unknown>,
 *   seen: (vertices: Uint32Array, values: Float32Array) => void,
 *   value: (vertex: number) => number,
 *   ready?: () => Promise<unknown>,
 *   view?: { seen: () => { layer: string, isMask: boolean }, see: (layer: string, isMask: boolean) => void },
 * }} Host `step` is the painted one that is open; `view` is how its layers are looked at, where the page lets one choose;
 * `ready` once what was painted before is on the stage
 */

export class Strokes {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {Host} host
   */
  constructor(stage, host) {
    this.host = host;
    /** What the list was fetched for. */
    this.listed = "";
    /** The step that the panel was last turned to. */
    this.turnedTo = "";
    /** The step and outputs that `channels` are of, and until they are known. */
    this.turningTo = "";
    /** @type {Promise<void>} */
    this.turning = Promise.resolve();
    /** Which of the four numbers of a brush each channel keeps, by its place. @type {Record<string, number>} */
    this.channels = {};
    this.brush = new Brush(stage, {
      url: host.url,
      step: () => this.step?.id ?? "",
      stack: host.stack,
      keep: (step, stroke) => host.edit({ op: "add_stroke", step, stroke }),
      seen: host.seen,
      value: host.value,
      picked: (place) => void this.#pick(place).catch(tell),
      ready: () => Promise.all([this.turning, host.ready?.()]),
    });
    this.panel = new BrushPanel(this.brush, {
      nameOf: (layer) => {
        const found = this.channelOf(layer);
        return found ? `${found.name} (${layer})` : layer;
      },
      isKept: (layer) => this.channelOf(layer) !== undefined,
      modes: () => this.#setting?.choices ?? ["set"],
      combs: () => this.combs,
      remove: (place) => void this.#edit({ op: "remove_stroke", step: this.step?.id ?? "", place }).catch(tell),
      move: (place, to) => void this.#edit({ op: "move_stroke", step: this.step?.id ?? "", place, to }).catch(tell),
      others: () =>
        this.painted
          .filter(({ id, step }) => id !== this.step?.id && step === this.step?.step)
          .map((one) => [one.id, nameOf(one)]),
      view: host.view,
    });
  }

  get step() {
    return this.host.step();
  }

  /** @param {StackStepState} step */
  #settingOf(step) {
    return this.host.kinds.get(step.step)?.settings.find(({ kind }) => kind === "strokes");
  }

  get #setting() {
    return this.step && this.#settingOf(this.step);
  }

  /** Whether directions are combed, and no numbers painted. */
  get combs() {
    return this.#setting?.choices.includes("comb") ?? false;
  }

  /** The steps that a brush draws on. */
  get painted() {
    return this.host.stack()?.steps.filter((step) => this.#settingOf(step)) ?? [];
  }

  /** The channel that is made of a layer of the open step. @param {string} layer */
  channelOf(layer) {
    return this.host.stack()?.outputs.find((one) => one.step === this.step?.id && one.layer === layer);
  }

  /** @param {number[]} place */
  async #pick([x, y, z]) {
    const query = new URLSearchParams({ x: String(x), y: String(y), z: String(z) });
    const { strokes } = await getJson(`${this.host.url()}/strokes/${this.step?.id}/at?${query}`);
    this.panel.point(strokes[0]);
  }

  /** @param {StackOperation} operation */
  async #edit(operation) {
    await this.brush.keeping;
    await this.host.edit(operation);
  }

  /** Another step, or another state of it: panel and list follow. @param {string} mesh tells its states apart */
  async follow(mesh) {
    const { step } = this;
    if (!step) {
      if (this.brush.isOn) this.brush.put(false);
      return this.panel.show([]);
    }
    // Where a step is edited, what the brush touches stays.
    if (this.turnedTo === step.id) this.panel.draw();
    else this.panel.turn();
    this.turnedTo = step.id;
    const channelsOf = JSON.stringify([step.id, this.host.stack()?.outputs]);
    const key = JSON.stringify([mesh, channelsOf, step.values.lines ?? []]);
    if (this.listed === key) return;
    this.listed = key;
    const listing = this.#list(step, key);
    // What a brush changes meanwhile would be put into the channels that were known before.
    if (this.turningTo !== channelsOf) this.turning = listing;
    this.turningTo = channelsOf;
    await listing;
  }

  /**
   * @param {StackStepState} step
   * @param {string} key
   */
  async #list(step, key) {
    try {
      const { strokes, channels } = await getJson(`${this.host.url()}/strokes/${step.id}`);
      if (this.listed !== key) return;
      this.channels = channels;
      this.panel.show(strokes);
    } catch (error) {
      this.listed = "";
      tell(error);
    }
  }

  /** What was fetched while a stroke is drawn knows nothing of it yet. */
  seeAgain() {
    this.brush.stroke?.seeAgain();
  }
}

/** @param {StackStepState} step */
export const nameOf = ({ id, values }) => String(values.name || id.replaceAll("_", " "));
