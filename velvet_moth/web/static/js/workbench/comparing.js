/** Two pictures on one stage, parted by an edge that is dragged: a variant, a version or what was before, beside what is. */
import { getJson } from "moth/api.js";
import { byId, follow, h } from "moth/dom.js";
import { tell } from "moth/notices.js";
import { shaderOf, shaderValues, shape } from "moth/workbench/shader_values.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("../stage/stage.js").Stage} Stage */

const VERSION = "version ";

export class Comparing {
  /**
   * @param {GraphModel} model
   * @param {Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    /** What stands on the left: a variant's id, "before" for the last edit, "version 3", or null. @type {string | null} */
    this.with = null;
    /** The version that was fetched last, by its number and variant. */
    this.version = { key: "", values: new Float32Array(), shader: /** @type {any} */ (null) };
    this.words = h("span", {});
    this.edge = h(
      "div",
      { id: "wipe", role: "slider", tabindex: 0, "aria-label": "Edge between the two pictures", hidden: true },
      this.words,
      h("button", { type: "button", "aria-label": "Stop comparing", onclick: () => this.stop() }, "×"),
    );
    byId("stage-area").append(this.edge);
    this.edge.addEventListener("pointerdown", (event) => {
      if (event.target instanceof HTMLButtonElement) return;
      const from = this.share;
      follow(event, (dx) => this.#put(from + dx / stage.canvas.clientWidth));
    });
    this.edge.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
      if (!by) return;
      event.preventDefault();
      this.#put(this.share + by);
    });
    this.share = 0.5;
    model.addEventListener("state", () => void this.#refresh().catch(tell));
    stage.addEventListener("drawn", () => this.#place());
  }

  /**
   * @param {string} what a variant's id, "before", or a version as "version 3"
   * @param {string} words
   */
  async start(what, words) {
    this.with = what;
    this.words.textContent = words;
    this.edge.hidden = false;
    if (what === "before") this.before = this.stage.previous;
    await this.#refresh();
    this.#put(0.5);
    this.edge.focus();
  }

  stop() {
    this.with = null;
    this.edge.hidden = true;
    this.stage.setWipe(null);
  }

  async #refresh() {
    const { model, stage } = this;
    if (this.with === null) return;
    if (this.with === "before") {
      if (this.before) stage.setWipe({ ...this.before, share: this.share });
      return;
    }
    if (this.with.startsWith(VERSION)) return this.#versionBeside(this.with);
    if (this.with && !model.state.document.variants.some(({ id }) => id === this.with)) return this.stop();
    if (shape(model, this.with) === shape(model, model.variant)) {
      stage.setWipe({ values: shaderValues(model, this.with), built: null, share: this.share });
      return;
    }
    const shader = await shaderOf(model, this.with);
    const built = await stage.prepare(shader);
    if (built) stage.setWipe({ values: shaderValues(model, this.with, shader), built, share: this.share });
  }

  /** A version in the variant that is shown, where it had that. @param {string} what */
  async #versionBeside(what) {
    const { model, stage } = this;
    const key = `${what} ${model.variant}`;
    if (this.version.key !== key) {
      const asked = new URLSearchParams({ variant: model.variant });
      const found = await getJson(`${model.url}/versions/${what.slice(VERSION.length)}/shader?${asked}`);
      this.version = { key, shader: found.shader, values: new Float32Array(found.values) };
    }
    const built = await stage.prepare(this.version.shader);
    // Meanwhile something else may have been asked for.
    if (built && this.with === what) stage.setWipe({ values: this.version.values, built, share: this.share });
  }

  /** @param {number} share */
  #put(share) {
    this.share = Math.min(0.98, Math.max(0.02, share));
    this.edge.setAttribute("aria-valuenow", String(Math.round(this.share * 100)));
    if (this.stage.wipe) this.stage.setWipe({ ...this.stage.wipe, share: this.share });
    this.#place();
  }

  #place() {
    const { offsetLeft, offsetTop, clientWidth, clientHeight } = this.stage.canvas;
    this.edge.style.left = `${offsetLeft + clientWidth * this.share}px`;
    this.edge.style.top = `${offsetTop}px`;
    this.edge.style.height = `${clientHeight}px`;
  }
}
