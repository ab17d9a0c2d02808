/** While the picture moves by itself and no hand is at work, the stage is drawn by a shader whose plain values are constants. */
import { getJson } from "moth/base/api.js";
import { tell } from "moth/base/notices.js";
import { shaderValues } from "moth/workbench/model/shader_values.js";

/** How long nothing must have been changed, in milliseconds: building the shader takes the GPU's time. */
const CALM = 4000;

export class Resting {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    this.changed = performance.now();
    this.isAsking = false;
    /** The last folded shader, whose text need not be sent twice. @type {import("../../types.d.ts").ShaderState | null} */
    this.shader = null;
    for (const event of ["state", "dragged"]) model.addEventListener(event, () => this.#change());
    stage.addEventListener("drawn", () => this.#look());
  }

  #change() {
    this.changed = performance.now();
    this.stage.setResting(null);
  }

  #look() {
    const { stage, model, changed } = this;
    if (this.isAsking || stage.resting || !stage.isMoving || !stage.isReady || stage.wipe || model.shown) return;
    // Its values would have to follow the keys too.
    if (stage.isPlaying && model.keys.targets().length) return;
    if (performance.now() - changed < CALM) return;
    this.isAsking = true;
    this.#fold()
      .catch(tell)
      .finally(() => {
        this.isAsking = false;
      });
  }

  async #fold() {
    const { model, stage, changed } = this;
    const { url, variant } = model;
    const asked = new URLSearchParams({ variant, folded: "true", shader: this.shader?.hash ?? "" });
    const shader = { ...this.shader, ...(await getJson(`${url}/shader?${asked}`)) };
    this.shader = shader;
    const built = await stage.prepare(shader);
    // Meanwhile a hand may have come back.
    if (changed !== this.changed) return;
    // What the GPU refuses is not asked for again until something changes.
    if (!built) this.changed = Infinity;
    else stage.setResting({ values: shaderValues(model, variant, shader), built });
  }
}
