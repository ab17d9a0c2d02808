/** The layout of a mesh's UVs: its triangles where they lie in the texture, tinted by how they are stretched. */
import * as THREE from "three";

const VERTEX = `
in vec3 position;
in vec2 uv;
out vec3 place;
out vec2 at;
uniform vec2 low;
uniform float side;
uniform float aspect;
void main() {
  place = position;
  at = uv;
  vec2 seen = (uv - low) / side * 2.0 - 1.0;
  gl_Position = vec4(seen * vec2(min(1.0, 1.0 / aspect), min(1.0, aspect)) * 0.94, 0.0, 1.0);
}`;
/** Metres to a unit of UV along both axes against the middle of all: below it is larger in the texture, above smaller. */
const FRAGMENT = `
precision highp float;
in vec3 place;
in vec2 at;
out vec4 picture;
uniform float usual;
void main() {
  float area = length(cross(dFdx(place), dFdy(place)));
  vec2 across = dFdx(at);
  vec2 above = dFdy(at);
  float share = sqrt(area / max(abs(across.x * above.y - across.y * above.x), 1e-12)) / usual;
  float off = clamp(log2(max(share, 1e-4)) * 0.5, -1.0, 1.0);
  vec3 even = vec3(0.42);
  vec3 tint = off < 0.0 ? mix(even, vec3(0.16, 0.34, 0.72), -off) : mix(even, vec3(0.78, 0.22, 0.12), off);
  picture = vec4(tint, 1.0);
}`;
const LINES = `
precision highp float;
out vec4 picture;
void main() { picture = vec4(0.86, 0.84, 0.8, 1.0); }`;
const GROUND = new THREE.Color().setRGB(0.17, 0.165, 0.16, THREE.LinearSRGBColorSpace);
/** Where a texture lies once. */
const ONCE = [0, 0, 1, 0, 1, 1, 0, 1];

export class Layout {
  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    this.canvas = canvas;
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.renderer.setClearColor(GROUND, 1);
    this.uniforms = {
      low: { value: new THREE.Vector2(0, 0) },
      side: { value: 1 },
      aspect: { value: 1 },
      usual: { value: 1 },
    };
    const made = (/** @type {string} */ fragmentShader, /** @type {object} */ more) =>
      new THREE.RawShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader,
        uniforms: this.uniforms,
        side: THREE.DoubleSide,
        depthTest: false,
        ...more,
      });
    const adding = { blending: THREE.CustomBlending, blendSrc: THREE.OneFactor, blendDst: THREE.OneFactor };
    this.faces = new THREE.Mesh(new THREE.BufferGeometry(), made(FRAGMENT, adding));
    this.outlines = new THREE.Mesh(this.faces.geometry, made(LINES, { wireframe: true }));
    this.scene = new THREE.Scene();
    const square = new THREE.BufferGeometry();
    square.setAttribute("position", new THREE.BufferAttribute(new Float32Array(12), 3));
    square.setAttribute("uv", new THREE.BufferAttribute(new Float32Array(ONCE), 2));
    for (const mesh of [this.faces, this.outlines, new THREE.LineLoop(square, made(LINES, {}))]) {
      mesh.frustumCulled = false;
      this.scene.add(mesh);
    }
    new ResizeObserver(() => this.draw()).observe(canvas);
  }

  /**
   * @param {THREE.BufferGeometry} geometry
   * @param {boolean} areOutlined
   */
  show(geometry, areOutlined) {
    this.faces.geometry = this.outlines.geometry = geometry;
    this.outlines.visible = areOutlined;
    const uv = geometry.getAttribute("uv");
    const [low, high] = [new THREE.Vector2(0, 0), new THREE.Vector2(1, 1)];
    const point = new THREE.Vector2();
    for (let i = 0; i < uv.count; i += 1) {
      point.fromBufferAttribute(/** @type {THREE.BufferAttribute} */ (uv), i);
      low.min(point);
      high.max(point);
    }
    this.uniforms.low.value.copy(low);
    this.uniforms.side.value = Math.max(high.x - low.x, high.y - low.y);
    this.uniforms.usual.value = usualOf(geometry);
    this.draw();
  }

  draw() {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    if (!width || !height || !this.faces.geometry.hasAttribute("uv")) return;
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
    this.renderer.setSize(width, height, false);
    this.uniforms.aspect.value = width / height;
    this.renderer.render(this.scene, new THREE.Camera());
  }
}

/** Metres to a unit of UV over the whole surface. @param {THREE.BufferGeometry} geometry */
function usualOf(geometry) {
  const [position, uv] = ["position", "uv"].map((name) => geometry.getAttribute(name).array);
  const index = /** @type {THREE.BufferAttribute} */ (geometry.index).array;
  const at = [0, 0, 0].map(() => new THREE.Vector3());
  const [one, other] = [new THREE.Vector3(), new THREE.Vector3()];
  let [surface, laid] = [0, 0];
  for (let i = 0; i < index.length; i += 3) {
    const [a, b, c] = [index[i], index[i + 1], index[i + 2]];
    for (const [k, corner] of [a, b, c].entries()) at[k].fromArray(position, corner * 3);
    surface += one.subVectors(at[1], at[0]).cross(other.subVectors(at[2], at[0])).length();
    const across = (uv[b * 2] - uv[a * 2]) * (uv[c * 2 + 1] - uv[a * 2 + 1]);
    laid += Math.abs(across - (uv[c * 2] - uv[a * 2]) * (uv[b * 2 + 1] - uv[a * 2 + 1]));
  }
  return laid ? Math.sqrt(surface / laid) : 1;
}
