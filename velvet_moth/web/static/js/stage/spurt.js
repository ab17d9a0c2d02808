/** What spurts where something is thrown: the instances of another graph, drawn before what the decals lie on. */
import * as THREE from "three";
import { coarserForms, formGeometry } from "moth/stage/forms.js";
import { Instances } from "moth/stage/instances.js";
import { materialOf } from "moth/stage/materials.js";

/** @typedef {import("../types.d.ts").SpurtShader} SpurtShader */
/** @typedef {import("../types.d.ts").EmitterSource} EmitterSource */

export class Spurt {
  /** @param {import("./stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    this.mesh = new THREE.Mesh();
    this.mesh.visible = false;
    this.mesh.frustumCulled = false;
    this.instances = new Instances(stage.renderer, stage.settings, stage.uniforms, this.mesh);
    stage.scene.add(this.mesh);
    /** What is shown, and what was asked for last. */
    this.shown = this.wanted = "";
    /** The sources of what is kept, and of what is thrown and not kept. @type {EmitterSource[][]} */
    this.sources = [[], []];
    /** @type {SpurtShader | null} */
    this.drawn = null;
  }

  /**
   * Shows what tells itself apart by a key; nothing where that is empty.
   * @param {string} key
   * @param {() => Promise<SpurtShader>} fetch
   */
  async set(key, fetch) {
    if (key === this.wanted) return;
    this.wanted = key;
    const found = key ? await fetch() : null;
    const form = found && (await formGeometry(found.form, false));
    const { pool, uniforms } = this.stage;
    const samplers = found?.shader.samplers.filter(({ name }) => !(name in uniforms)) ?? [];
    const bound = await Promise.all(samplers.map((sampler) => pool.get(sampler)));
    if (this.wanted !== key) return;
    this.shown = key;
    this.drawn = found;
    /** @type {THREE.Material} */ (this.mesh.material).dispose();
    if (found && form) {
      this.instances.setForm(form, coarserForms(found.form, this.stage.settings, false));
      const { min, max } = /** @type {THREE.Box3} */ (form.boundingBox);
      this.mesh.material = materialOf(found.shader, {
        ...uniforms,
        ...this.instances.read,
        form_low: { value: min },
        form_high: { value: max },
        ...Object.fromEntries(samplers.map(({ name }, at) => [name, { value: bound[at] }])),
        values: { value: new Float32Array(found.values) },
      });
    }
    this.#place();
  }

  /** @param {0 | 1} which those of what is kept, or of what is only thrown @param {EmitterSource[]} sources */
  setSources(which, sources) {
    this.sources[which] = sources;
    this.#place();
  }

  #place() {
    const sources = this.sources.flat();
    this.mesh.visible = !!this.drawn && sources.length > 0;
    if (!this.drawn) return;
    this.instances.set(this.drawn.emitter, sources);
    this.stage.invalidate();
  }

  /** Draws it or not, as long as something is drawn. @param {boolean} isSeen @param {() => void} draw */
  during(isSeen, draw) {
    const kept = this.mesh.visible;
    this.mesh.visible = kept && isSeen;
    draw();
    this.mesh.visible = kept;
  }
}
