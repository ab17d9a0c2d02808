/** Two pictures on one stage, parted by an edge that is dragged: variants, lights, versions, what was before, the graph as it is. */
import { getJson } from "moth/base/api.js";
import { menu } from "moth/base/dialogs.js";
import { byId, follow, h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { everyRig, litBy } from "moth/workbench/stage_tools/lights.js";
import { shaderOf, shaderValues, shape } from "moth/workbench/model/shader_values.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../stage/stage.js").Stage} Stage */
/** @typedef {import("../../stage/stage.js").Shown} Shown */
/** @typedef {"left" | "right"} Side */

/** The picture of one side: null for the stage as it is, nothing for what is gone. @typedef {Shown | null | undefined} Found */

/** Versions whose shaders are kept: one for each side, and two before. */
const MOST = 4;

/** What may stand on a side: its name, and its picture. @typedef {{ words: string, shown: () => Promise<Found> }} Choice */

/** The graph, which follows every edit. @type {Choice} */
const AS_IT_IS = { words: "As it is", shown: () => Promise.resolve(null) };

export class SplitView {
  /**
   * @param {GraphModel} model
   * @param {Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    /** What stands on each side; null while nothing is compared. @type {Record<Side, Choice> | null} */
    this.sides = null;
    /** The versions that were fetched last, by their number and variant. @type {Map<string, Promise<any>>} */
    this.versions = new Map();
    this.share = 0.5;
    const label = (/** @type {Side} */ side) =>
      h("button", { type: "button", class: side, onclick: () => void this.#choose(side).catch(tell) });
    this.labels = { left: label("left"), right: label("right") };
    this.edge = h("div", { role: "slider", tabindex: 0, "aria-label": "Edge between the two pictures" });
    this.place = h(
      "div",
      { id: "wipe", hidden: true },
      this.edge,
      this.labels.left,
      this.labels.right,
      h("button", { type: "button", class: "close", "aria-label": "Stop comparing", onclick: () => this.stop() }, "×"),
    );
    byId("stage-area").append(this.place);
    this.edge.addEventListener("pointerdown", (event) => {
      const from = this.share;
      follow(event, (dx) => this.#put(from + dx / stage.canvas.clientWidth));
    });
    this.edge.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
      if (!by) return;
      event.preventDefault();
      this.#put(this.share + by);
    });
    model.addEventListener("state", () => void this.#refresh().catch(tell));
    stage.addEventListener("drawn", () => this.#stand());
  }

  /** Asks what to set on the left of the graph as it is. @param {HTMLElement} button where it is asked */
  async ask(button) {
    const choices = await this.#choices();
    menu(
      button,
      choices.map((left) => [left.words, () => void this.#start({ left, right: AS_IT_IS }, 0.5).catch(tell)]),
    );
  }

  stop() {
    this.sides = null;
    this.place.hidden = true;
    this.stage.setWipe(null);
  }

  /**
   * @param {Record<Side, Choice>} sides
   * @param {number} [share] where the edge stands
   */
  async #start(sides, share = this.share) {
    this.sides = sides;
    this.place.hidden = false;
    for (const side of /** @type {const} */ (["left", "right"])) {
      this.labels[side].textContent = sides[side].words;
      this.labels[side].setAttribute("aria-label", `On the ${side}: ${sides[side].words}. Choose another`);
    }
    await this.#refresh();
    this.#put(share);
    this.edge.focus();
  }

  /** Another picture on one side. @param {Side} side */
  async #choose(side) {
    const choices = [AS_IT_IS, ...(await this.#choices())];
    menu(
      this.labels[side],
      choices.map((choice) => [
        choice.words,
        () => this.sides && void this.#start({ ...this.sides, [side]: choice }).catch(tell),
      ]),
    );
  }

  /** @returns {Promise<Choice[]>} */
  async #choices() {
    const { model, stage } = this;
    const { versions } = await getJson(`${model.url}/history`);
    const variants = [{ id: "", name: "Defaults" }, ...model.state.document.variants];
    const { previous } = stage;
    const before = () => {
      if (!previous) notice("Nothing was edited yet.", { mend: "Change something, then compare." });
      return Promise.resolve(previous ?? undefined);
    };
    return [
      { words: "Before the last edit", shown: before },
      ...variants
        .filter(({ id }) => id !== model.variant)
        .map(({ id, name }) => ({ words: name, shown: () => this.#variant(id) })),
      ...everyRig()
        .filter(({ id }) => id !== stage.lighting.rig)
        .map(({ id, name }) => ({
          words: `Light: ${name}`,
          shown: async () => (await litBy(model, stage, id)) ?? undefined,
        })),
      ...versions.map((/** @type {{ id: number, name: string }} */ { id, name }) => ({
        words: `Version: ${name}`,
        shown: () => this.#version(id),
      })),
    ];
  }

  /** @param {string} id @returns {Promise<Found>} */
  async #variant(id) {
    const { model, stage } = this;
    if (id && !model.state.document.variants.some((one) => one.id === id)) return undefined;
    if (shape(model, id) === shape(model, model.variant)) return { values: shaderValues(model, id), built: null };
    const shader = await shaderOf(model, id);
    const built = await stage.prepare(shader);
    return built ? { values: shaderValues(model, id, shader), built } : undefined;
  }

  /** A version in the variant that is shown, where it had that. @param {number} id @returns {Promise<Found>} */
  async #version(id) {
    const { model, stage } = this;
    const asked = `${model.url}/versions/${id}/shader?${new URLSearchParams({ variant: model.variant })}`;
    let found = this.versions.get(asked);
    if (!found) {
      found = getJson(asked);
      found.catch(() => this.versions.delete(asked));
      this.versions.set(asked, found);
      for (const [other] of this.versions) if (this.versions.size > MOST) this.versions.delete(other);
    }
    const { shader, values } = await found;
    const built = await stage.prepare(shader);
    return built ? { values: new Float32Array(values), built } : undefined;
  }

  async #refresh() {
    const { sides } = this;
    if (!sides) return;
    const [left, right] = await Promise.all([sides.left.shown(), sides.right.shown()]);
    // Meanwhile something else may have been asked for.
    if (this.sides !== sides) return;
    if (left === undefined || right === undefined) return this.stop();
    this.stage.setWipe({ left, right, share: this.share });
  }

  /** @param {number} share */
  #put(share) {
    this.share = Math.min(0.98, Math.max(0.02, share));
    this.edge.setAttribute("aria-valuenow", String(Math.round(this.share * 100)));
    if (this.stage.wipe) this.stage.setWipe({ ...this.stage.wipe, share: this.share });
    this.#stand();
  }

  #stand() {
    const { offsetLeft, offsetTop, clientWidth, clientHeight } = this.stage.canvas;
    this.place.style.left = `${offsetLeft + clientWidth * this.share}px`;
    this.place.style.top = `${offsetTop}px`;
    this.place.style.height = `${clientHeight}px`;
  }
}
