/** The stage at each moment: keyed values, textures, light, eye, lamps and decals as their tracks have them. */
import { direction } from "moth/stage/eye.js";
import { keyedPlaces, valuesNow } from "moth/workbench/model/shader_values.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../stage/stage.js").Stage} Stage */
/** @typedef {import("../../types.d.ts").ShaderState} ShaderState */
/** @typedef {import("../../types.d.ts").Decal} Decal */
/** @typedef {import("three").Texture} Texture */

/** What each part of a decal that takes keys becomes. @type {Record<string, (value: any) => Partial<Decal>>} */
const DECAL_PARTS = {
  place: (place) => ({ place }),
  turn: ([turn, tilt, roll]) => ({ turn, tilt, roll }),
  size: (size) => ({ size: size.map((/** @type {number} */ side) => Math.max(side, 0.001)) }),
  index: ([index]) => ({ index }),
  strength: ([strength]) => ({ strength }),
  numbers: (numbers) => ({ numbers }),
  tint: (tint) => ({ tint }),
};

export class KeyedStage {
  /**
   * @param {GraphModel} model the graph whose surface is shown
   * @param {Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    /** The textures that keys choose on the samplers of the shader, by sampler and id. @type {Map<string, Texture>} */
    this.textures = new Map();
    /** The last shader that was looked at, and where keyed values go in it. @type {{ shader: ShaderState | null, keyed: import("../model/shader_values.js").KeyedPlace[] }} */
    this.places = { shader: null, keyed: [] };
    /** The targets that are keyed on the decals. @type {string[]} */
    this.onDecals = [];
    /** The tracks of light and eye that were last followed, as text: a hand moves them too, until time goes on. */
    this.followed = "";
    stage.onTime = (time) => this.show(time);
    model.addEventListener("state", () => {
      this.places.shader = null;
      this.onDecals = model.keys.targets().filter((target) => target.startsWith("decal/"));
      const looks = JSON.stringify([model.keys.piecesOf("scene/light"), model.keys.piecesOf("scene/eye")]);
      this.#stand(this.followed !== looks);
      this.followed = looks;
      void this.#fetchTextures();
    });
  }

  /** @param {number} time seconds */
  show(time) {
    this.model.passTo(time);
    if (!this.model.state) return;
    this.#stand(true);
    this.#values();
  }

  #values() {
    const { model, stage, places } = this;
    const { shader } = model.state;
    // A shader on its way still shows the values it had.
    if (stage.values.value.length !== shader.floats) return;
    if (places.shader !== shader) this.places = { shader, keyed: keyedPlaces(model, shader) };
    if (this.places.keyed.length) stage.animate(valuesNow(model, this.places.keyed, stage.values.value));
    this.#bind(shader);
  }

  /** @param {ShaderState} shader */
  #bind(shader) {
    const { uniforms } = this.stage.shown?.material ?? {};
    if (!uniforms || !this.textures.size) return;
    for (const { name, key } of shader.samplers) {
      const target = key.length ? this.model.parameterAt(key[0], key[1])?.id : undefined;
      const texture = target && this.textures.get(`${name} ${this.model.keys.now(target)}`);
      if (texture && uniforms[name]) uniforms[name].value = texture;
    }
  }

  /** All textures that keys can choose are there before they are shown, so that playing asks for nothing. */
  async #fetchTextures() {
    const { model, stage } = this;
    const { shader, textures } = model.state;
    const found = new Map();
    for (const sampler of shader.samplers) {
      const target = sampler.key.length ? model.parameterAt(sampler.key[0], sampler.key[1])?.id : undefined;
      for (const texture of new Set((target && model.keys.piecesOf(target)?.texts) || [])) {
        const read = {
          ...sampler,
          texture: texture || sampler.missing,
          revision: textures[texture]?.revision ?? 0,
        };
        found.set(`${sampler.name} ${texture}`, await stage.pool.get(read));
      }
    }
    this.textures = found;
    if (found.size) this.show(stage.time);
  }

  /** @param {boolean} isLed whether light and eye go where their tracks have them */
  #stand(isLed) {
    const { model, stage } = this;
    const { keys } = model;
    const numbers = (/** @type {string} */ target) => /** @type {number[] | undefined} */ (keys.now(target));
    if (isLed) {
      const [light, eye] = [numbers("scene/light"), numbers("scene/eye")];
      if (light) stage.lighting.stand(light[0], light[1]);
      if (eye) {
        const [turn, tilt, distance, field, ...target] = eye;
        stage.look({ turn, tilt, distance: Math.max(distance, 0.05), field, target: /** @type {any} */ (target) });
      }
    }
    const lamps = Array.from({ length: stage.settings.lamps }, (_, at) => numbers(`scene/lamp_${at + 1}`)?.[0] ?? 1);
    const strengths = [numbers("scene/sun")?.[0] ?? 1, ...lamps].map((factor) => Math.max(factor, 0));
    const before = [stage.lighting.strengths.sun, ...stage.lighting.strengths.lamps];
    if (strengths.some((factor, at) => factor !== (before[at] ?? 1)))
      stage.lighting.setStrengths(strengths[0], strengths.slice(1));
    const source = numbers("scene/emitter");
    if (source) {
      const [x, y, z, turn, tilt, strength] = source;
      const way = /** @type {[number, number, number]} */ (direction(turn, tilt).toArray());
      stage.setSource({ place: [x, y, z], way, strength: Math.max(strength, 0) });
    }
    if (this.onDecals.length) stage.setDecals(this.decals(model.state.decals));
  }

  /** Decals as they are at the moment. @param {Decal[]} decals */
  decals(decals) {
    return decals.map((decal) => {
      const own = this.onDecals.filter((target) => decal.id && target.startsWith(`decal/${decal.id}/`));
      const parts = own.map((target) => DECAL_PARTS[target.split("/")[2]](this.model.keys.now(target)));
      return Object.assign({}, decal, ...parts);
    });
  }
}
