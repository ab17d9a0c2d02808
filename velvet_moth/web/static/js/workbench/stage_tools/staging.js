/** What a state of a graph puts on the stage besides its form and its shader: pose, emitter, light, what lies behind, decals, what spurts. */
import { getJson } from "moth/base/api.js";
import { tell } from "moth/base/notices.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */

export class Staging {
  /**
   * @param {GraphModel} model the graph whose surface is shown
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {import("./keyed_stage.js").KeyedStage} keyed
   */
  constructor(model, stage, keyed) {
    this.model = model;
    this.stage = stage;
    this.keyed = keyed;
    /** The texture around the stage and its revision, as text. */
    this.around = "";
    /** Whether the stage has been brought to the moment at which there is something to see. */
    this.begun = false;
  }

  /**
   * @param {import("../../types.d.ts").GraphState} state
   * @param {boolean} [isProjected] whether what lies behind is painted on
   * @returns {Promise<unknown>} once all of it is there
   */
  stand(state, isProjected = state.shader.projected) {
    const { stage, keyed } = this;
    const { document: graph, textures, emitter, part_surfaces: surfaces, decals, spread_inputs: spread } = state;
    stage.setPose(graph.pose);
    stage.setEmitter(emitter);
    const known = textures[graph.environment];
    /** @type {Promise<unknown>[]} */
    const coming = [];
    const around = known ? `${graph.environment} ${known.revision}` : "";
    if (graph.rig !== stage.lighting.wantedRig || around !== this.around) {
      this.around = around;
      const read = known ? { texture: graph.environment, revision: known.revision } : null;
      coming.push(stage.lighting.set(graph.rig, read));
    }
    coming.push(stage.setBackdrop(graph.backdrop, surfaces, isProjected));
    if (!this.begun) {
      this.begun = true;
      if (state.first_moment && !stage.time) stage.setTime(state.first_moment);
    }
    stage.setSpread(spread);
    coming.push(this.#spurt(state));
    stage.setDecals(keyed.decals(decals));
    return Promise.all(coming.map((one) => one.catch(tell)));
  }

  /** What spurts where decals are thrown, in the variant that is shown. @param {import("../../types.d.ts").GraphState} state */
  async #spurt({ shader, spurt: found, sources, document: graph }) {
    const { url, variant } = this.model;
    const spurt = shader.projected ? found : null;
    this.stage.spurt.setSources(0, sources);
    const key = spurt ? `${url} ${spurt.graph} ${spurt.stamp} ${graph.rig} ${variant}` : "";
    await this.stage.spurt.set(key, () => getJson(`${url}/spurt_shader?${new URLSearchParams({ variant })}`));
  }
}
