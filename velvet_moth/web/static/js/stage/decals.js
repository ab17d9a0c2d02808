/** Decals: boxes whose shader paints onto pictures of what lies behind, one after the other. */
import * as THREE from "three";
import { copied } from "moth/stage/copied.js";
import { direction } from "moth/stage/eye.js";
import { pixel } from "moth/stage/pixels.js";

/** @typedef {import("../types.d.ts").Decal} Decal */
/** @typedef {import("./copied.js").Part} Part */

const CORNERS = [-0.5, 0.5].flatMap((x) => [-0.5, 0.5].flatMap((y) => [-0.5, 0.5].map((z) => [x, y, z])));

/**
 * The pixels that a box can cover: all of them where it reaches behind the eye.
 * @param {THREE.Matrix4} matrix of a box whose sides are 1
 * @param {THREE.Camera} camera
 * @param {THREE.WebGLRenderTarget} target
 * @returns {Part}
 */
function coveredBy(matrix, camera, { width, height }) {
  const places = CORNERS.map(([x, y, z]) =>
    new THREE.Vector4(x, y, z, 1)
      .applyMatrix4(matrix)
      .applyMatrix4(camera.matrixWorldInverse)
      .applyMatrix4(camera.projectionMatrix),
  );
  if (places.some(({ w }) => w < 0.01)) return { left: 0, low: 0, width, height };
  /** @param {number[]} shares @param {number} side @returns {[number, number]} */
  const span = (shares, side) => {
    const ends = [Math.floor(Math.min(...shares) * side), Math.ceil(Math.max(...shares) * side)];
    const [from, to] = ends.map((end) => Math.min(side, Math.max(0, end)));
    return [from, to - from];
  };
  const [left, across] = span(
    places.map(({ x, w }) => x / w / 2 + 0.5),
    width,
  );
  const [low, up] = span(
    places.map(({ y, w }) => y / w / 2 + 0.5),
    height,
  );
  return { left, low, width: across, height: up };
}

/** Right, up, and out of a decal's box, as the core has them. @param {Decal} decal */
function axesOf({ turn, tilt, roll }) {
  const [out, flat] = [direction(turn, tilt), direction(turn + 90, 0)];
  const up = out.clone().cross(flat);
  const angle = (roll * Math.PI) / 180;
  const [cosine, sine] = [Math.cos(angle), Math.sin(angle)];
  const turned = (/** @type {THREE.Vector3} */ one, /** @type {THREE.Vector3} */ other, /** @type {number} */ by) =>
    one.clone().multiplyScalar(cosine).addScaledVector(other, by);
  return [turned(flat, up, sine), turned(up, flat, -sine), out];
}

/** How far decals reach, as the textures that draws of them read. @type {WeakMap<number[], THREE.DataTexture>} */
const reaches = new WeakMap();

/** @param {number[]} reach metres in each direction, evenly about the middle */
function reachTexture(reach) {
  let made = reaches.get(reach);
  if (!made) {
    const pixels = Float32Array.from(reach.flatMap((far) => [far, 0, 0, 0]));
    made = new THREE.DataTexture(pixels, reach.length, 1, THREE.RGBAFormat, THREE.FloatType);
    made.wrapS = THREE.RepeatWrapping;
    made.minFilter = made.magFilter = THREE.LinearFilter;
    made.needsUpdate = true;
    reaches.set(reach, made);
  }
  return made;
}

/** Nothing limits it. */
const ENDLESS = [1000];
const DEGREES = Math.PI / 180;

/** Pictures as large as the screen that one shader paints at once. @param {number} count */
const pictures = (count) => new THREE.WebGLRenderTarget(1, 1, { type: THREE.FloatType, depthBuffer: false, count });

export class Decals {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: any }>} uniforms those of the stage; those of decal buffers are this one's to fill
   * @param {Record<string, number[]>} empty what decal buffers hold where there is no decal
   */
  constructor(renderer, uniforms, empty) {
    this.renderer = renderer;
    this.uniforms = uniforms;
    this.empty = empty;
    /** What is read where there are no decals. */
    this.unchanged = Object.values(empty).map(pixel);
    /** In the order they lie on each other. @type {Decal[]} */
    this.list = [];
    /** Those on top that are not kept yet. @type {Decal[]} */
    this.thrown = [];
    this.box = new THREE.Mesh(new THREE.BoxGeometry(1, 1, 1));
    this.box.frustumCulled = false;
    this.box.matrixAutoUpdate = false;
    this.scene = new THREE.Scene();
    this.scene.add(this.box);
    this.buffers = pictures(this.unchanged.length);
    /** Where a decal is painted while it reads the other pictures, by how many there are. @type {Record<number, THREE.WebGLRenderTarget>} */
    this.aside = Object.fromEntries([1, this.unchanged.length].map((count) => [count, pictures(count)]));
    uniforms.texture_decal_reach.value = reachTexture(ENDLESS);
    this.read(this.unchanged);
  }

  /** How they live. @param {Record<string, number[]>} inputs by the names of their uniforms */
  setSpread(inputs) {
    for (const [name, numbers] of Object.entries(inputs)) this.uniforms[name].value.fromArray(numbers);
  }

  /** Has shaders read these decal buffers. @param {THREE.Texture[]} textures */
  read(textures) {
    for (const [at, key] of Object.keys(this.empty).entries()) this.uniforms[`texture_${key}`].value = textures[at];
  }

  /**
   * Paints light onto a picture.
   * @param {THREE.RawShaderMaterial} material
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} behind the picture of what lies behind
   */
  paintLight(material, camera, behind) {
    this.#paint(material, camera, behind, () => (this.uniforms.texture_backdrop.value = behind.texture));
  }

  /**
   * Fills the decal buffers, which shaders read from now on, until they are given others.
   * @param {THREE.RawShaderMaterial} material
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} behind the picture of what lies behind
   */
  fillBuffers(material, camera, behind) {
    const { renderer, buffers, empty } = this;
    if (buffers.width !== behind.width || buffers.height !== behind.height)
      buffers.setSize(behind.width, behind.height);
    renderer.setRenderTarget(buffers);
    const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
    for (const [at, none] of Object.values(empty).entries()) gl.clearBufferfv(gl.COLOR, at, new Float32Array(none));
    this.#paint(material, camera, buffers, () => this.read(buffers.textures));
  }

  /**
   * @param {THREE.RawShaderMaterial} material
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} target what is painted on
   * @param {() => void} read has shaders read it
   */
  #paint(material, camera, target, read) {
    const { renderer, uniforms, box } = this;
    const aside = this.aside[target.textures.length];
    if (aside.width !== target.width || aside.height !== target.height) aside.setSize(target.width, target.height);
    renderer.initRenderTarget(aside);
    const kept = renderer.autoClear;
    renderer.autoClear = false;
    box.material = material;
    for (const decal of [...this.list, ...this.thrown]) {
      if (uniforms.time.value < (decal.born ?? 0)) continue;
      const [right, up, out] = axesOf(decal);
      const [width, height, depth] = decal.size;
      uniforms.decal_place.value.fromArray(decal.place);
      uniforms.decal_right.value.copy(right);
      uniforms.decal_up.value.copy(up);
      uniforms.decal_half.value.set(width / 2, height / 2, depth / 2);
      uniforms.decal_index.value = decal.index;
      uniforms.decal_tint.value.fromArray(decal.tint);
      uniforms.decal_born.value = decal.born ?? 0;
      uniforms.decal_seed.value = decal.seed ?? 0;
      uniforms.decal_strength.value = decal.strength;
      uniforms.decal_numbers.value.fromArray(decal.numbers);
      uniforms.decal_fade.value.fromArray(decal.fade.map((angle) => Math.cos(angle * DEGREES)));
      uniforms.texture_decal_reach.value = reachTexture(decal.reach?.length ? decal.reach : ENDLESS);
      box.matrix.makeBasis(right, up, out).scale(new THREE.Vector3(width, height, depth));
      box.matrix.setPosition(...decal.place);
      const covered = coveredBy(box.matrix, camera, target);
      if (!covered.width || !covered.height) continue;
      copied(renderer, target, aside, covered);
      read();
      renderer.setRenderTarget(aside);
      renderer.render(this.scene, camera);
      copied(renderer, aside, target, covered);
    }
    renderer.autoClear = kept;
    read();
  }
}
