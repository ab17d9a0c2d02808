/** Shaders built for the stage, kept for a while, so that going back to one costs nothing. */
import * as THREE from "three";
import { nameOf } from "moth/stage/pixels.js";

/** @typedef {import("../types.d.ts").ShaderState} ShaderState */
/** @typedef {{ material: THREE.RawShaderMaterial, values: { value: Float32Array } }} Built */

const MOST = 12;

/** @param {string} text */
export const withoutVersion = (text) => text.replace(/^#version[^\n]*\n/, "");

/**
 * What tells two builds apart: the text and the textures bound to it.
 * @param {ShaderState} shader
 */
export const keyOf = (shader) => `${shader.hash} ${shader.samplers.map(nameOf)}`;

export class Materials {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: unknown }>} shared uniforms that every shader of the stage reads
   */
  constructor(renderer, shared) {
    this.renderer = renderer;
    this.shared = shared;
    /** @type {Map<string, Built>} */
    this.kept = new Map();
  }

  /**
   * The material of a shader; null where the GPU refuses it. It compiles aside, without freezing the picture.
   * @param {ShaderState} shader
   * @param {Record<string, { value: unknown }>} textures
   * @param {THREE.BufferGeometry} geometry
   * @param {THREE.Camera} camera
   * @param {string[]} shown keys that must stay
   * @returns {Promise<Built | null>}
   */
  async get(shader, textures, geometry, camera, shown) {
    const key = keyOf(shader);
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const values = { value: new Float32Array(shader.floats) };
    const material = new THREE.RawShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: withoutVersion(shader.vertex ?? ""),
      fragmentShader: withoutVersion(shader.fragment ?? ""),
      uniforms: { ...this.shared, ...textures, ...(shader.floats ? { values } : {}) },
      side: THREE.DoubleSide,
    });
    const aside = new THREE.Scene();
    aside.add(new THREE.Mesh(geometry, material));
    await this.renderer.compileAsync(aside, camera);
    if (!this.#isBuilt(material)) {
      material.dispose();
      return null;
    }
    const built = { material, values };
    this.kept.set(key, built);
    for (const [other, old] of this.kept) {
      if (this.kept.size <= MOST) break;
      if (other === key || shown.includes(other)) continue;
      old.material.dispose();
      this.kept.delete(other);
    }
    return built;
  }

  /**
   * Whether the GPU took the shader; a broken one must not replace a picture.
   * @param {THREE.RawShaderMaterial} material
   */
  #isBuilt(material) {
    const gl = this.renderer.getContext();
    const { program } = /** @type {any} */ (this.renderer.properties.get(material)).currentProgram;
    return gl.isContextLost() || gl.getProgramParameter(program, gl.LINK_STATUS);
  }
}
