/** The mean of several pictures, each seen from a fraction of a pixel beside: edges of all kinds end smoothly. */
import * as THREE from "three";
import { onScreen } from "moth/stage/screen.js";

/** Where in a pixel its samples lie, from its middle: no two in one column or row. */
export const SAMPLES = [
  [-1 / 8, -3 / 8],
  [3 / 8, -1 / 8],
  [-3 / 8, 1 / 8],
  [1 / 8, 3 / 8],
];

const WHOLE = {
  glslVersion: THREE.GLSL3,
  vertexShader: "in vec3 position; void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }",
  fragmentShader: `precision highp float; uniform sampler2D whole; uniform float share; out vec4 picture;
    void main() { picture = texelFetch(whole, ivec2(gl_FragCoord.xy), 0) * share; }`,
  depthTest: false,
  depthWrite: false,
};
const ADDING = { blending: THREE.CustomBlending, blendSrc: THREE.OneFactor, blendDst: THREE.OneFactor };

/** @param {THREE.WebGLRenderTarget} from @param {object} [otherwise] */
function reading(from, otherwise) {
  const uniforms = { whole: { value: from.texture }, share: { value: 1 } };
  const screen = onScreen(new THREE.RawShaderMaterial({ ...WHOLE, ...otherwise, uniforms }));
  return { screen, uniforms };
}

export class SmoothPicture {
  /** @param {THREE.WebGLRenderer} renderer */
  constructor(renderer) {
    this.renderer = renderer;
    /** Where a sample is drawn. */
    this.target = new THREE.WebGLRenderTarget(1, 1, { depthBuffer: true });
    this.sum = new THREE.WebGLRenderTarget(1, 1, { type: THREE.HalfFloatType, depthBuffer: false });
    this.adding = reading(this.target, ADDING);
    this.showing = reading(this.sum);
    this.eye = new THREE.Camera();
    this.count = 0;
  }

  /** Forgets what was added. @param {number} width @param {number} height */
  begin(width, height) {
    this.count = 0;
    if (this.target.width === width && this.target.height === height) return;
    this.target.setSize(width, height);
    this.sum.setSize(width, height);
  }

  /** Adds what was drawn. */
  add() {
    const { renderer, sum, adding, eye } = this;
    const kept = renderer.autoClear;
    renderer.setRenderTarget(sum);
    // Past the renderer, whose own colour is the grey behind.
    const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
    if (this.count === 0) gl.clearBufferfv(gl.COLOR, 0, new Float32Array(4));
    renderer.autoClear = false;
    renderer.render(adding.screen, eye);
    renderer.autoClear = kept;
    this.count += 1;
  }

  /** Puts the mean of what was added there. @param {THREE.WebGLRenderTarget | null} target */
  show(target) {
    this.showing.uniforms.share.value = 1 / this.count;
    this.renderer.setRenderTarget(target);
    this.renderer.render(this.showing.screen, this.eye);
  }

  dispose() {
    this.target.dispose();
    this.sum.dispose();
    for (const { screen } of [this.adding, this.showing]) screen.material.dispose();
  }
}
