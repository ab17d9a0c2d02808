/** The light on the stage: the rig, where it stands, what surrounds it, and another one to compare it with. */
import { direction } from "moth/stage/eye.js";
import { placeLamps, surround } from "moth/stage/uniforms.js";

/** @typedef {import("./picture.js").Light} Light */
/** @typedef {import("./pixels.js").Around} Around */

export class Lighting {
  /** @param {import("./stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    this.rig = Object.keys(stage.settings.rigs)[0];
    /** The rig asked for last; its surroundings may still be on their way. */
    this.wantedRig = this.rig;
    /** A texture in the place of the rig's surroundings. @type {Around | null} */
    this.around = null;
    /** The exposure that is set by what is seen; null where the rig's own holds. @type {number | null} */
    this.automatic = null;
    /** Where the main light is, in degrees. */
    this.angles = { turn: 0, tilt: 0 };
    /** So many times as strong as the rig has them are its main light and its lamps. */
    this.strengths = { sun: 1, lamps: /** @type {number[]} */ ([]) };
    /** What lies behind is lit by so many lamps at least: those of rigs it was compared under, dark or not. */
    this.leastLamps = 0;
  }

  /** The lamps of the rig, where they are before its light is turned. */
  get lamps() {
    return this.stage.settings.rigs[this.rig].lamps;
  }

  /** So many lamps the shaders of what lies behind are built for. */
  get lampsBehind() {
    return Math.max(this.lamps.length, this.leastLamps);
  }

  /** @param {number | null} exposure null for the rig's own */
  setExposure(exposure) {
    const { stage } = this;
    this.automatic = exposure;
    stage.uniforms.exposure.value = exposure ?? stage.settings.rigs[this.rig].exposure;
    stage.invalidate();
  }

  /** Puts the light of the rig where it first is. */
  reset() {
    const { uniforms, settings, backdrop } = this.stage;
    const { turn, tilt, exposure, far } = settings.rigs[this.rig];
    backdrop.setFar(far);
    Object.assign(this.angles, { turn, tilt });
    uniforms.exposure.value = this.automatic ?? exposure;
    this.#aim();
  }

  /** Tells the shaders where the light is. */
  #aim() {
    const { uniforms, settings, picture } = this.stage;
    const { turn, tilt } = this.angles;
    const turned = turn - settings.rigs[this.rig].turn;
    const { sun, lamps } = this.strengths;
    uniforms.sun_direction.value.copy(direction(turn, tilt));
    uniforms.sun_colour.value.fromArray(settings.rigs[this.rig].colour).multiplyScalar(sun);
    picture.sun.turn();
    uniforms.rig_turn.value = (((-turned / 360) % 1) + 1) % 1;
    const lit = this.lamps.map((lamp, at) => ({
      ...lamp,
      colour: lamp.colour.map((part) => part * (lamps[at] ?? 1)),
    }));
    placeLamps(uniforms, settings, lit, turned);
  }

  /** Puts the main light at some angles. @param {number} turn degrees @param {number} tilt degrees */
  stand(turn, tilt) {
    Object.assign(this.angles, { turn, tilt });
    this.#aim();
  }

  /** @param {number} sun so many times as strong as the rig has it is its main light @param {number[]} lamps and its lamps */
  setStrengths(sun, lamps) {
    this.strengths = { sun, lamps };
    this.#aim();
  }

  /**
   * @param {number} turn degrees
   * @param {number} tilt degrees
   */
  turn(turn, tilt) {
    const { angles } = this;
    angles.turn = (angles.turn + turn + 360) % 360;
    angles.tilt = Math.min(89, Math.max(-10, angles.tilt + tilt));
    this.#aim();
    this.stage.moved();
  }

  /**
   * Another light, with its surroundings; the old one stays until they have come.
   * @param {string} key
   * @param {Around | null} [around] a texture in the place of the rig's own surroundings
   */
  async set(key, around = this.around) {
    const { stage } = this;
    this.wantedRig = key;
    this.around = around;
    const found = await stage.pool.environment(key, around);
    // Meanwhile yet another may have been asked for.
    if (this.wantedRig !== key || this.around !== around) return;
    const isOther = key !== this.rig;
    this.rig = key;
    surround(stage.uniforms, stage.settings, found);
    if (isOther) this.reset();
    if (isOther && stage.backdrop.key) await stage.setBackdrop(stage.backdrop.key);
    stage.invalidate();
  }

  /**
   * Another rig, ready to be drawn under for comparison.
   * @param {string} key
   * @returns {Promise<Light>}
   */
  async prepare(key) {
    const { stage } = this;
    const around = await stage.pool.environment(key, this.around);
    const lamps = stage.settings.rigs[key].lamps.length;
    if (lamps > this.lampsBehind) {
      this.leastLamps = lamps;
      await stage.setBackdrop(stage.backdrop.key);
    }
    return { key, around };
  }

  /**
   * Draws under another rig, its light where it first is; the one there is stays.
   * @param {Light} light
   * @param {() => void} draw
   */
  under({ key, around }, draw) {
    if (key === this.rig) return draw();
    const { uniforms } = this.stage;
    const kept = { rig: this.rig, around: uniforms.texture_environment.value, angles: { ...this.angles } };
    this.#standIn(key, around);
    draw();
    this.#standIn(kept.rig, kept.around);
    Object.assign(this.angles, kept.angles);
    this.#aim();
  }

  /**
   * @param {string} key
   * @param {import("three").Texture} around
   */
  #standIn(key, around) {
    this.rig = key;
    surround(this.stage.uniforms, this.stage.settings, around);
    this.reset();
  }
}
