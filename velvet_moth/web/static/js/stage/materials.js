/** Shaders built for the stage, kept for a while, so that going back to one costs nothing. */
import * as THREE from "three";
import { IDLE_ATTRIBUTES, readsFaces } from "moth/stage/forms.js";
import { nameOf } from "moth/stage/pixels.js";

/** @typedef {import("../types.d.ts").ShaderState} ShaderState */
/**
 * A shader that was built: whether what it draws keeps the sun off, paints onto what lies behind, into decal buffers, or adds up sheet by sheet.
 * @typedef {{
 *   material: THREE.RawShaderMaterial, values: { value: Float32Array },
 *   casts: boolean, isProjected: boolean, isBuffered: boolean, adds: boolean, readsFaces: boolean
 * }} Built
 */

/** @typedef {{ words: string, log: string }} Fault the name of what is at fault, and the GPU's own words */

const MOST = 12;
const ADDING = {
  blending: THREE.CustomBlending,
  blendSrc: THREE.OneFactor,
  blendDst: THREE.OneFactor,
  depthTest: false,
};

/** @param {string} text */
const withoutVersion = (text) => text.replace(/^#version[^\n]*\n/, "");

/**
 * A shader with the uniforms it reads, seen from both sides unless said otherwise.
 * @param {{ vertex?: string | null, fragment?: string | null }} shader
 * @param {Record<string, { value: unknown }>} uniforms
 * @param {THREE.ShaderMaterialParameters} [otherwise]
 */
export function materialOf({ vertex, fragment }, uniforms, otherwise) {
  const material = new THREE.RawShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: withoutVersion(vertex ?? ""),
    fragmentShader: withoutVersion(fragment ?? ""),
    uniforms,
    side: THREE.DoubleSide,
    ...otherwise,
  });
  return Object.assign(material, { defaultAttributeValues: IDLE_ATTRIBUTES });
}

/**
 * What tells two builds apart: the text and the textures bound to it.
 * @param {ShaderState} shader
 */
export const keyOf = (shader) =>
  `${shader.hash} ${shader.casts} ${shader.projected} ${shader.adds} ${shader.samplers.map(nameOf)}`;

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
    /** What the GPU said of the last shader it refused. @type {Fault} */
    this.fault = { words: "", log: "" };
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
    const adds = shader.adds && !shader.projected;
    const uniforms = { ...this.shared, ...textures, ...(shader.floats ? { values } : {}) };
    const material = materialOf(shader, uniforms, {
      ...(adds ? ADDING : {}),
      // A box is painted by its inner sides, so that the eye may stand in it.
      ...(shader.projected ? { side: THREE.BackSide, depthTest: false, depthWrite: false } : {}),
    });
    const aside = new THREE.Scene();
    aside.add(new THREE.Mesh(geometry, material));
    await this.renderer.compileAsync(aside, camera);
    if (!this.#isBuilt(material)) {
      this.fault = this.#faultOf(material);
      material.dispose();
      return null;
    }
    const built = {
      material,
      readsFaces: readsFaces(material.fragmentShader),
      values,
      casts: shader.casts,
      isProjected: shader.projected,
      isBuffered: shader.buffered,
      adds,
    };
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
   * Where the GPU found fault, by the names that our own comments give to lines.
   * @param {THREE.RawShaderMaterial} material
   * @returns {Fault}
   */
  #faultOf(material) {
    const gl = this.renderer.getContext();
    const { program } = /** @type {any} */ (this.renderer.properties.get(material)).currentProgram;
    for (const shader of gl.getAttachedShaders(program) ?? []) {
      const log = gl.getShaderInfoLog(shader) ?? "";
      const at = Number(/ERROR: \d+:(\d+)/.exec(log)?.[1] ?? 0);
      if (!at) continue;
      const lines = (gl.getShaderSource(shader) ?? "").split("\n");
      const main = lines.findIndex((line) => line.startsWith("void main()"));
      const named = (/** @type {string[]} */ some) => some.map((line) => / *\/\/ (.+)$/.exec(line)?.[1]).find(Boolean);
      // In main the parts of a value stand before its name, elsewhere a function stands below its own.
      const words = at > main ? named(lines.slice(at - 1)) : named(lines.slice(0, at).reverse());
      return { words: words ?? "", log };
    }
    return { words: "", log: gl.getProgramInfoLog(program) ?? "" };
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
