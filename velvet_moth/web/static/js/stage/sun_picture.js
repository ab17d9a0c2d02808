/** What the sun sees of the scene: drawn by the scene's own shaders, and read by them for their shadows. */
import * as THREE from "three";
import { pixel } from "moth/stage/pixels.js";

export class SunPicture {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: any }>} uniforms those of the stage
   * @param {import("../types.d.ts").PageSettings["sun"]} settings pixels a side, and what stands where nothing is met
   */
  constructor(renderer, uniforms, { size, nothing }) {
    this.renderer = renderer;
    this.uniforms = uniforms;
    this.target = new THREE.WebGLRenderTarget(size, size, { type: THREE.FloatType, depthBuffer: true });
    this.nothing = pixel([nothing, 0, 0, 1]);
    this.eye = new THREE.OrthographicCamera();
    /** What the picture shows, by everything it hangs on. */
    this.shown = "";
    uniforms.texture_sun_depth.value = this.nothing;
  }

  /** The axes of the picture, which hang on where the sun stands. */
  turn() {
    const { sun_direction: sun, sun_right: right, sun_up: up } = this.uniforms;
    const helper = Math.abs(sun.value.y) > 0.99 ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(0, 1, 0);
    right.value.crossVectors(helper, sun.value).normalize();
    up.value.crossVectors(sun.value, right.value);
  }

  /**
   * Draws it where it would be another one.
   * @param {THREE.Scene[]} scenes
   * @param {string} state everything it hangs on
   * @param {THREE.WebGLRenderTarget} next where is drawn afterwards
   */
  draw(scenes, state, next) {
    if (state === this.shown) return;
    this.shown = state;
    const { renderer, uniforms, eye } = this;
    const half = uniforms.sun_half.value;
    Object.assign(eye, { left: -half, right: half, bottom: -half, top: half, near: 0, far: half * 4 });
    eye.position.copy(uniforms.sun_direction.value).multiplyScalar(half * 2);
    eye.up.copy(uniforms.sun_up.value);
    eye.lookAt(0, 0, 0);
    eye.updateProjectionMatrix();
    eye.updateMatrixWorld();
    // What is drawn here may not read the picture it is drawn into.
    uniforms.texture_sun_depth.value = this.nothing;
    uniforms.sun_pass.value = true;
    const kept = renderer.autoClear;
    renderer.setRenderTarget(this.target);
    renderer.clear(true, true, false);
    const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
    gl.clearBufferfv(gl.COLOR, 0, /** @type {Float32Array} */ (this.nothing.image.data));
    renderer.autoClear = false;
    for (const scene of scenes) renderer.render(scene, eye);
    renderer.autoClear = kept;
    renderer.setRenderTarget(next);
    uniforms.sun_pass.value = false;
    uniforms.texture_sun_depth.value = this.target.texture;
  }
}
