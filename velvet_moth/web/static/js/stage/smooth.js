/** Pictures with several samples a pixel, so that the edges of forms and of what is cut away are smooth. */
import * as THREE from "three";

const SAMPLES = 4;

/** What puts a finished picture on the canvas, as it is. */
const PUT = {
  glslVersion: THREE.GLSL3,
  vertexShader: "in vec3 position; void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }",
  fragmentShader: `precision highp float; uniform sampler2D whole; out vec4 picture;
    void main() { picture = vec4(texelFetch(whole, ivec2(gl_FragCoord.xy), 0).rgb, 1.0); }`,
  depthTest: false,
  depthWrite: false,
};

/** @param {number} width @param {number} height */
export const smoothTarget = (width, height) =>
  new THREE.WebGLRenderTarget(width, height, { depthBuffer: true, samples: SAMPLES });

export class SmoothPicture {
  /** @param {THREE.WebGLRenderer} renderer */
  constructor(renderer) {
    this.renderer = renderer;
    this.target = smoothTarget(1, 1);
    const corners = new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3);
    this.scene = new THREE.Scene();
    const put = new THREE.RawShaderMaterial({ ...PUT, uniforms: { whole: { value: this.target.texture } } });
    const screen = new THREE.Mesh(new THREE.BufferGeometry().setAttribute("position", corners), put);
    screen.frustumCulled = false;
    this.scene.add(screen);
    this.eye = new THREE.Camera();
  }

  /** Where it is drawn. @param {number} width @param {number} height */
  of(width, height) {
    if (this.target.width !== width || this.target.height !== height) this.target.setSize(width, height);
    return this.target;
  }

  /** Puts it on the canvas. */
  show() {
    this.renderer.setRenderTarget(null);
    this.renderer.render(this.scene, this.eye);
  }
}
