/** A form drawn many times: by an emitter, whose instances the GPU works out for each moment. */
import * as THREE from "three";
import { materialOf } from "moth/stage/materials.js";
import { onScreen } from "moth/stage/screen.js";

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

const VECTORS = [THREE.Vector2, THREE.Vector3, THREE.Vector4];

/** One to four numbers as a uniform has them. @param {number[]} numbers */
const ofNumbers = (numbers) =>
  numbers.length === 1 ? numbers[0] : new VECTORS[numbers.length - 2]().fromArray(numbers);

/** Numbers of each instance that one draw paints. @typedef {{ scene: THREE.Scene, target: THREE.WebGLRenderTarget }} Pass */

/** A coarser form for so many triangles, fetched when it is wanted; null where there is none. @typedef {(triangles: number) => { key: string, fetch: () => Promise<THREE.BufferGeometry> } | null} Coarser */

/** What an emitter draws: textures of what each instance knows, painted for every moment, and the geometry that reads them. */
export class Instances {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {import("../types.d.ts").StageSettings} settings
   * @param {Record<string, { value: any }>} shared uniforms of the stage: the time and the eye
   * @param {THREE.Mesh} mesh what draws them
   */
  constructor(renderer, { instances: { idle, textures, across } }, { time, camera_position }, mesh) {
    this.renderer = renderer;
    this.mesh = mesh;
    this.across = across;
    /** What the shaders of the form read. @type {Record<string, { value: any }>} */
    this.read = {
      ...Object.fromEntries(Object.entries(idle).map(([name, numbers]) => [name, { value: ofNumbers(numbers) }])),
      ...Object.fromEntries(textures.map((key) => [`texture_${key}`, { value: null }])),
    };
    /** What the shaders of the passes read. @type {Record<string, { value: any }>} */
    this.uniforms = {
      ...this.read,
      time,
      camera_position,
      texture_emitter_curves: { value: null },
      texture_emitter_sources: { value: null },
    };
    /** @type {Pass[]} */
    this.passes = [];
    /** Nothing is seen by it: the vertices say where they are. */
    this.camera = new THREE.Camera();
    /** Everything that the textures show follows from. */
    this.painted = "";
    /** @type {EmitterState | null} */
    this.emitter = null;
    this.count = 0;
    /** Counts the changes of what is drawn. */
    this.changes = 0;
    /** @type {EmitterSource[]} */
    this.sources = [];
    /** Which of the sources the passes have. */
    this.shown = "";
    /** What there is of every instance. @type {THREE.BufferGeometry | null} */
    this.form = null;
    /** What is drawn in its place while the picture moves, and the key of that. @type {THREE.BufferGeometry | null} */
    this.coarse = null;
    this.wanted = "";
    /** @type {Coarser} */
    this.coarser = () => null;
    /** What was made of each form. @type {WeakMap<THREE.BufferGeometry, THREE.InstancedBufferGeometry>} */
    this.made = new WeakMap();
  }

  /**
   * @param {EmitterState | null} emitter
   * @param {EmitterSource[]} [sources] where its instances come from, if not from its own source
   */
  set(emitter, sources = emitter?.sources ?? []) {
    const { uniforms, emitter: before } = this;
    this.emitter = emitter;
    this.sources = sources;
    this.changes += 1;
    if (!emitter) return this.form && this.#place(this.form);
    for (const [name, numbers] of Object.entries(emitter.inputs)) this.read[name].value = ofNumbers(numbers);
    if (emitter.curves !== before?.curves) {
      uniforms.texture_emitter_curves.value?.dispose();
      const { curves, width, height } = emitter;
      uniforms.texture_emitter_curves.value = floats(decoded(curves), width, height, THREE.LinearFilter);
    }
    const texts = (/** @type {EmitterState | null} */ of) => of?.passes.map(({ fragment }) => fragment).join();
    if (texts(emitter) !== texts(before)) this.#build(emitter.passes);
    this.shown = "";
    this.#show(sources);
    if (this.form) this.#place(this.form);
  }

  /** @param {EmitterState["passes"]} passes */
  #build(passes) {
    for (const { scene, target } of this.passes) {
      target.dispose();
      scene.traverse((one) => one instanceof THREE.Mesh && one.material.dispose());
    }
    this.passes = passes.map((pass) => {
      const filter = THREE.NearestFilter;
      const how = { type: THREE.FloatType, depthBuffer: false, minFilter: filter, magFilter: filter };
      const target = new THREE.WebGLRenderTarget(1, 1, { ...how, count: pass.textures.length });
      pass.textures.forEach((key, at) => (this.read[`texture_${key}`].value = target.textures[at]));
      const material = materialOf(pass, this.uniforms, { depthTest: false, depthWrite: false });
      return { scene: new THREE.Scene().add(onScreen(material)), target };
    });
  }

  /**
   * Has it ready for a moment; sources of which nothing is there then are left out.
   * @param {number} time seconds
   * @param {boolean} isMoving whether the picture may be a coarse one
   */
  at(time, isMoving) {
    if (!this.emitter) return;
    const [rate, , duration] = this.emitter.inputs.emitter_births;
    const lasts = rate && !duration ? Infinity : this.emitter.inputs.emitter_life[1] + (rate ? duration : 0);
    this.#show(this.sources.filter(({ born }) => time >= born && time - born <= lasts));
    const form = isMoving ? this.#moving : this.form;
    if (form) this.#place(form);
    this.#paint();
  }

  /** Nothing of what was painted is there any more. */
  spoil() {
    this.painted = "";
  }

  #paint() {
    const { renderer, uniforms, camera, count, across } = this;
    const state = [this.changes, this.shown, uniforms.time.value, ...uniforms.camera_position.value].join(" ");
    if (!count || state === this.painted) return;
    this.painted = state;
    const kept = renderer.getRenderTarget();
    for (const { scene, target } of this.passes) {
      target.setSize(across, Math.ceil(count / across));
      renderer.setRenderTarget(target);
      renderer.render(scene, camera);
    }
    renderer.setRenderTarget(kept);
  }

  /** @param {EmitterSource[]} sources */
  #show(sources) {
    const { emitter, uniforms } = this;
    if (!emitter) return;
    const shown = sources.map((source) => this.sources.indexOf(source)).join();
    this.count = emitter.slots * sources.length;
    if (this.shown === shown && uniforms.texture_emitter_sources.value) return;
    this.shown = shown;
    uniforms.texture_emitter_sources.value?.dispose();
    const rows = rowsOf(sources.length ? sources : emitter.sources);
    uniforms.texture_emitter_sources.value = floats(rows, 3, Math.max(sources.length, 1), THREE.NearestFilter);
  }

  /**
   * @param {THREE.BufferGeometry} form what there is of every instance
   * @param {Coarser} [coarser]
   */
  setForm(form, coarser = () => null) {
    Object.assign(this, { form, coarser, coarse: form, wanted: "" });
    this.#place(form);
  }

  /** Draws a form as often as there are instances, or once. @param {THREE.BufferGeometry} form */
  #place(form) {
    if (!this.emitter) {
      this.mesh.geometry = form;
      return;
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
    this.mesh.geometry = made;
  }

  /** The form as it is drawn while the picture moves: a coarser one, once it has come, where there are many triangles. */
  get #moving() {
    const { form, count } = this;
    const triangles = (count * (form?.index?.count ?? 0)) / 3;
    const found = this.coarser(triangles);
    if (found && found.key !== this.wanted) {
      this.wanted = found.key;
      void found.fetch().then((coarse) => {
        if (this.form === form && this.wanted === found.key) this.coarse = coarse;
      });
    }
    return found ? this.coarse : form;
  }
}
