/** Decals: boxes whose shader paints onto what lies behind, one after the other. */
import * as THREE from "three";
import { copied } from "moth/stage/copied.js";

/** @typedef {import("../types.d.ts").DecalState} DecalState */

export class Decals {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: any }>} uniforms those of the stage
   */
  constructor(renderer, uniforms) {
    this.renderer = renderer;
    this.uniforms = uniforms;
    /** In the order they lie on each other. @type {DecalState[]} */
    this.list = [];
    this.box = new THREE.Mesh(new THREE.BoxGeometry(1, 1, 1));
    this.box.frustumCulled = false;
    this.box.matrixAutoUpdate = false;
    this.scene = new THREE.Scene();
    this.scene.add(this.box);
    /** Where a decal is painted while it reads the other picture. */
    this.target = new THREE.WebGLRenderTarget(1, 1, { type: THREE.FloatType, depthBuffer: false });
  }

  /**
   * @param {THREE.RawShaderMaterial} material
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} behind the picture of what lies behind, which they are painted on
   * @param {THREE.WebGLRenderTarget} next where is drawn afterwards
   */
  paint(material, camera, behind, next) {
    const { renderer, uniforms, target, box } = this;
    if (target.width !== behind.width || target.height !== behind.height) target.setSize(behind.width, behind.height);
    renderer.initRenderTarget(target);
    copied(renderer, behind, target);
    const kept = renderer.autoClear;
    renderer.autoClear = false;
    box.material = material;
    for (const decal of this.list) {
      const [right, up, out] = decal.axes.map((axis) => new THREE.Vector3(...axis));
      const [width, height, depth] = decal.size;
      uniforms.decal_place.value.fromArray(decal.place);
      uniforms.decal_right.value.copy(right);
      uniforms.decal_up.value.copy(up);
      uniforms.decal_half.value.set(width / 2, height / 2, depth / 2);
      uniforms.decal_index.value = decal.index;
      uniforms.decal_tint.value.fromArray(decal.tint);
      box.matrix.makeBasis(right, up, out).scale(new THREE.Vector3(width, height, depth));
      box.matrix.setPosition(...decal.place);
      uniforms.texture_backdrop.value = behind.texture;
      renderer.setRenderTarget(target);
      renderer.render(this.scene, camera);
      copied(renderer, target, behind);
    }
    renderer.autoClear = kept;
    renderer.setRenderTarget(next);
  }
}
