/** What lies behind: a scene drawn first, into a picture of light and distances that surfaces in front read. */
import * as THREE from "three";
import { getJson } from "moth/api.js";
import { loadGeometry } from "moth/stage/forms.js";
import { withoutVersion } from "moth/stage/materials.js";

/** @typedef {{ light: THREE.Mesh, seen: THREE.Mesh }} Loaded */

/** @type {Map<string, Promise<{ geometry: THREE.BufferGeometry, shaders: any }>>} */
const known = new Map();

/** @param {string} key @param {number} lamps so many of the rig light it */
function fetched(key, lamps) {
  const name = `${key} ${lamps}`;
  let found = known.get(name);
  if (!found) {
    const address = `/api/stage/backdrops/${encodeURIComponent(key)}`;
    found = Promise.all([loadGeometry(`${address}/mesh`), getJson(`${address}?lamps=${lamps}`)]).then(
      ([geometry, shaders]) => ({
        geometry,
        shaders,
      }),
    );
    found.catch(() => known.delete(name));
    known.set(name, found);
  }
  return found;
}

/**
 * A texture of one pixel.
 * @param {number[]} values
 */
export function pixel(values) {
  const made = new THREE.DataTexture(new Float32Array(values), 1, 1, THREE.RGBAFormat, THREE.FloatType);
  made.needsUpdate = true;
  return made;
}

export class Backdrop {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: any }>} uniforms those of the stage; `texture_backdrop` is this one's to fill
   * @param {THREE.Scene} front the scene that is seen, to which what lies behind is added with its depth
   */
  constructor(renderer, uniforms, front) {
    this.renderer = renderer;
    this.uniforms = uniforms;
    this.front = front;
    this.key = "";
    /** What was asked for last: a scene, and how many lamps light it. */
    this.wanted = " 0";
    this.nothing = pixel([0, 0, 0, 1000]);
    /** Light and distance where nothing is. */
    this.far = [0, 0, 0, 1000];
    /** @type {Loaded | null} */
    this.loaded = null;
    this.scene = new THREE.Scene();
    this.target = new THREE.WebGLRenderTarget(1, 1, { type: THREE.FloatType, depthBuffer: true });
    uniforms.texture_backdrop.value = this.nothing;
  }

  /** Half the side of what the sun has to see of it, in metres. */
  get reach() {
    return this.loaded?.light.geometry.userData.reach ?? 0;
  }

  /** @param {boolean} isSeen */
  show(isSeen) {
    if (this.loaded) this.loaded.seen.visible = isSeen;
  }

  /** What is seen where nothing is. @param {number[]} far light and distance */
  setFar(far) {
    this.far = far;
    /** @type {Float32Array} */ (this.nothing.image.data).set(far);
    this.nothing.needsUpdate = true;
  }

  /**
   * Another scene behind; the old one stays until it has come.
   * @param {string} key empty for nothing
   * @param {number} lamps so many of the rig light it
   */
  async set(key, lamps) {
    this.key = key;
    const wanted = (this.wanted = `${key} ${lamps}`);
    const found = key ? await fetched(key, lamps) : null;
    if (this.wanted !== wanted) return;
    if (this.loaded) {
      this.scene.remove(this.loaded.light);
      this.front.remove(this.loaded.seen);
      for (const mesh of Object.values(this.loaded)) /** @type {THREE.Material} */ (mesh.material).dispose();
    }
    this.loaded = null;
    if (found) {
      const mesh = (/** @type {{ vertex: string, fragment: string }} */ shader) => {
        const material = new THREE.RawShaderMaterial({
          glslVersion: THREE.GLSL3,
          vertexShader: withoutVersion(shader.vertex),
          fragmentShader: withoutVersion(shader.fragment),
          uniforms: this.uniforms,
          side: THREE.DoubleSide,
        });
        const made = new THREE.Mesh(found.geometry, material);
        made.frustumCulled = false;
        return made;
      };
      this.loaded = { light: mesh(found.shaders.light), seen: mesh(found.shaders.seen) };
      this.scene.add(this.loaded.light);
      this.front.add(this.loaded.seen);
    }
  }

  /**
   * Draws what lies behind, before the scene that reads it is drawn.
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget | null} next where the scene in front goes
   */
  draw(camera, next) {
    const { renderer, uniforms, target } = this;
    if (!this.loaded) {
      uniforms.texture_backdrop.value = this.nothing;
      return;
    }
    const { x: width, y: height } = uniforms.screen_size.value;
    if (target.width !== width || target.height !== height) target.setSize(width, height);
    const kept = renderer.autoClear;
    renderer.setRenderTarget(target);
    renderer.clear(true, true, false);
    // Past the renderer, which would weaken the colour by the distance as if that were an alpha.
    const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
    gl.clearBufferfv(gl.COLOR, 0, new Float32Array(this.far));
    renderer.autoClear = false;
    // What is drawn here may not read the picture it is drawn into.
    uniforms.texture_backdrop.value = this.nothing;
    renderer.render(this.scene, camera);
    renderer.autoClear = kept;
    renderer.setRenderTarget(next);
    uniforms.texture_backdrop.value = target.texture;
  }
}
