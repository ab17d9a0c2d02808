/** A form drawn many times: by an emitter, whose instances the vertex shader works out for each moment. */
import * as THREE from "three";

/** @typedef {import("../types.d.ts").EmitterState} EmitterState */
/** @typedef {import("../types.d.ts").EmitterSource} EmitterSource */

/** @param {Float32Array} pixels RGBA @param {number} width @param {number} height @param {THREE.MagnificationTextureFilter} filter */
function floats(pixels, width, height, filter) {
  const made = new THREE.DataTexture(pixels, width, height, THREE.RGBAFormat, THREE.FloatType);
  made.minFilter = made.magFilter = /** @type {any} */ (filter);
  made.needsUpdate = true;
  return made;
}

/** @param {string} text base64 of float32 */
const decoded = (text) => new Float32Array(Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer);

/** A row of three pixels for each source. @param {EmitterSource[]} sources */
const rowsOf = (sources) =>
  Float32Array.from(
    sources.flatMap(({ place, born, way, seed, strength }) => [...place, born, ...way, seed, strength, 0, 0, 0]),
  );

/** What an emitter draws: the uniforms of its shaders, and its geometry. */
export class Instances {
  /** @param {Record<string, { value: any }>} uniforms into which it puts what shaders read of it */
  constructor(uniforms) {
    this.uniforms = uniforms;
    /** @type {EmitterState | null} */
    this.emitter = null;
    this.count = 0;
    /** Counts the changes of what is drawn. */
    this.changes = 0;
    /** @type {EmitterSource[]} */
    this.sources = [];
    /** Which of the sources the shaders have. */
    this.shown = "";
    /** What is drawn now. @type {THREE.InstancedBufferGeometry | null} */
    this.geometry = null;
    /** What was made of each form. @type {WeakMap<THREE.BufferGeometry, THREE.InstancedBufferGeometry>} */
    this.made = new WeakMap();
  }

  /**
   * @param {EmitterState | null} emitter
   * @param {EmitterSource[]} [sources] where its instances come from, if not from its own source
   */
  set(emitter, sources = emitter?.sources ?? []) {
    const { uniforms } = this;
    const isOther = emitter?.curves !== this.emitter?.curves;
    this.emitter = emitter;
    this.sources = sources;
    this.changes += 1;
    if (!emitter) return;
    for (const [name, numbers] of Object.entries(emitter.inputs))
      if (numbers.length === 1) uniforms[name].value = numbers[0];
      else uniforms[name].value.fromArray(numbers);
    if (isOther) {
      uniforms.texture_emitter_curves.value?.dispose();
      const { curves, width, height } = emitter;
      uniforms.texture_emitter_curves.value = floats(decoded(curves), width, height, THREE.LinearFilter);
    }
    this.shown = "";
    this.#show(sources);
  }

  /** Leaves out sources of which nothing is there at a time (s). @param {number} time */
  at(time) {
    if (!this.emitter) return;
    const [rate, , duration] = this.emitter.inputs.emitter_births;
    const lasts = rate && !duration ? Infinity : this.emitter.inputs.emitter_life[1] + (rate ? duration : 0);
    this.#show(this.sources.filter(({ born }) => time >= born && time - born <= lasts));
  }

  /** @param {EmitterSource[]} sources */
  #show(sources) {
    const { emitter, uniforms } = this;
    if (!emitter) return;
    const shown = sources.map((source) => this.sources.indexOf(source)).join();
    this.count = emitter.slots * sources.length;
    if (this.geometry) this.geometry.instanceCount = this.count;
    if (this.shown === shown && uniforms.texture_emitter_sources.value) return;
    this.shown = shown;
    uniforms.texture_emitter_sources.value?.dispose();
    const rows = rowsOf(sources.length ? sources : emitter.sources);
    uniforms.texture_emitter_sources.value = floats(rows, 3, Math.max(sources.length, 1), THREE.NearestFilter);
  }

  /** The form as it is drawn: as often as there are instances, or once. @param {THREE.BufferGeometry} form */
  of(form) {
    if (!this.emitter) {
      this.geometry = null;
      return form;
    }
    let made = this.made.get(form);
    if (!made) {
      made = new THREE.InstancedBufferGeometry();
      for (const [name, attribute] of Object.entries(form.attributes)) made.setAttribute(name, attribute);
      made.setIndex(form.index);
      made.boundingBox = form.boundingBox;
      made.userData = form.userData;
      this.made.set(form, made);
    }
    made.instanceCount = this.count;
    this.geometry = made;
    return made;
  }
}
