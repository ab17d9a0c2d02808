/** What lies behind: a scene drawn first, into a picture of light and distances that surfaces in front read. */
import * as THREE from "three";
import { getJson } from "moth/base/api.js";
import { loadGeometry, readsFaces } from "moth/stage/forms.js";
import { materialOf } from "moth/stage/materials.js";
import { pixel } from "moth/stage/pixels.js";
import { areTimed, readingsOf } from "moth/stage/readings.js";
import { onScreen } from "moth/stage/screen.js";

/** @typedef {import("../types.d.ts").PartSurface} PartSurface */
/** @typedef {{ vertex: string, fragment: string }} Texts */
/**
 * Its parts as they are drawn for what stands before them, all of it as it is seen, what the parts read, and whether the time.
 * @typedef {{ parts: THREE.Mesh[], seen: THREE.Mesh, readings: () => string, isTimed: boolean }} Loaded
 */
/** What is drawn of a part: its shader with what binds to it besides the stage's own. @typedef {{ texts: Texts, own: Record<string, { value: unknown }> }} Drawn */

/** What was fetched, by its address. @type {Map<string, Promise<any>>} */
const known = new Map();

/**
 * @template T
 * @param {string} address
 * @param {(address: string) => Promise<T>} load
 * @returns {Promise<T>}
 */
function once(address, load) {
  let found = known.get(address);
  if (!found) {
    found = load(address);
    found.catch(() => known.delete(address));
    known.set(address, found);
  }
  return found;
}

/** @typedef {{ name: string, fetch: (hasFaces: boolean) => Promise<THREE.BufferGeometry>, mesh: THREE.Mesh, largest: () => number }} Form */

/** How what lies behind is lit: under so many lamps, and whether as decals leave its surface. @typedef {{ lamps: number, decals: boolean }} Lit */

/** @param {Lit} lit */
const asked = ({ lamps, decals }) => new URLSearchParams({ lamps: String(lamps), decals: String(decals) });

/** Whose state is known: what the sun sees, and what is only there while the picture is drawn. */
const TOLD = ["texture_sun_depth", "texture_backdrop", "sun_pass"];

export class Backdrop {
  /**
   * @param {THREE.WebGLRenderer} renderer
   * @param {Record<string, { value: any }>} uniforms those of the stage; `texture_backdrop` is this one's to fill
   * @param {THREE.Scene} front the scene that is seen, to which what lies behind is added with its depth
   * @param {import("./pixels.js").TexturePool} pool
   * @param {Record<string, Record<string, string>>} parts the names of each backdrop's parts
   * @param {string[]} own those that are the form itself
   */
  constructor(renderer, uniforms, front, pool, parts, own) {
    this.own = own;
    /** The form itself, for those: what tells it apart, where it is fetched, and the mesh whose pose it has. @type {Form | null} */
    this.form = null;
    this.pool = pool;
    this.parts = parts;
    this.renderer = renderer;
    this.uniforms = uniforms;
    this.front = front;
    this.key = "";
    /** What was asked for last: a scene, how it is lit, which surfaces its parts have. */
    this.wanted = this.nameOf("", { lamps: 0, decals: false }, []);
    this.nothing = pixel([0, 0, 0, 1000]);
    /** Light and distance where nothing is. */
    this.far = [0, 0, 0, 1000];
    /** @type {Loaded | null} */
    this.loaded = null;
    /** What the picture in the target shows, by everything it hangs on. */
    this.drawn = "";
    this.scene = new THREE.Scene();
    const picture = () => new THREE.WebGLRenderTarget(1, 1, { type: THREE.FloatType, depthBuffer: true });
    this.target = picture();
    /** With decals on it. */
    this.withDecals = picture();
    uniforms.texture_backdrop.value = this.nothing;
  }

  /** Half the side of what the sun has to see of it, in metres. */
  get reach() {
    const reach = this.loaded?.parts[0].geometry.userData.reach ?? 0;
    return this.isOwn && this.form ? reach * this.form.largest() : reach;
  }

  /** Whether it is the form itself. */
  get isOwn() {
    return this.own.includes(this.key);
  }

  /** What tells two scenes behind apart. @param {string} key @param {Lit} lit @param {PartSurface[]} surfaces */
  nameOf(key, lit, surfaces) {
    const form = this.own.includes(key) ? (this.form?.name ?? "") : "";
    return JSON.stringify([
      key,
      lit.lamps,
      lit.decals,
      surfaces.filter(({ part }) => part.startsWith(`${key}.`)),
      form,
    ]);
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
   * @param {Lit} lit
   * @param {PartSurface[]} surfaces the graphs whose surfaces parts of it have
   */
  async set(key, lit, surfaces) {
    this.key = key;
    const wanted = (this.wanted = this.nameOf(key, lit, surfaces));
    let found = null;
    try {
      if (key) found = await this.#fetched(key, lit, surfaces);
    } catch (error) {
      // It may be asked for again.
      if (this.wanted === wanted) this.wanted = "";
      throw error;
    }
    if (this.wanted !== wanted) return;
    for (const mesh of this.loaded ? [...this.loaded.parts, this.loaded.seen] : []) {
      mesh.removeFromParent();
      /** @type {THREE.Material} */ (mesh.material).dispose();
    }
    this.loaded = found;
    if (!found) return;
    this.scene.add(...found.parts);
    this.front.add(found.seen);
  }

  /**
   * @param {string} key
   * @param {Lit} lit
   * @param {PartSurface[]} surfaces
   * @returns {Promise<Loaded>}
   */
  async #fetched(key, lit, surfaces) {
    const address = `/api/stage/backdrops/${encodeURIComponent(key)}`;
    const { light, seen } = await once(`${address}?${asked(lit)}`, getJson);
    const parts = await Promise.all(
      Object.keys(this.parts[key]).map(async (part) => {
        const other = surfaces.find((one) => one.part === `${key}.${part}`);
        const drawn = other ? await this.#surface(other, lit) : { texts: light, own: {} };
        const hasFaces = readsFaces(drawn.texts.fragment);
        const place = `${address}/parts/${encodeURIComponent(part)}`;
        const { form } = this;
        const geometry =
          form && this.own.includes(key)
            ? await form.fetch(hasFaces)
            : await once(`${place} ${hasFaces}`, () => loadGeometry(place, hasFaces));
        const { min, max } = /** @type {THREE.Box3} */ (geometry.boundingBox);
        const box = { form_low: { value: min }, form_high: { value: max } };
        const made = new THREE.Mesh(geometry, materialOf(drawn.texts, { ...this.uniforms, ...box, ...drawn.own }));
        // The backs of what is closed are never seen, but would be worked out; a graph may cut it open, or move it apart.
        if (geometry.userData.isClosed && !other) made.material.side = THREE.FrontSide;
        made.frustumCulled = false;
        return made;
      }),
    );
    const screen = onScreen(materialOf(seen, this.uniforms));
    // Before the form, which is then not worked out where it is hidden.
    screen.renderOrder = -1;
    const materials = parts.map(({ material }) => /** @type {THREE.RawShaderMaterial} */ (material));
    return { parts, seen: screen, readings: readingsOf(materials, TOLD), isTimed: areTimed(materials) };
  }

  /** @param {PartSurface} surfaces @param {Lit} lit @returns {Promise<Drawn>} */
  async #surface({ graph, variant }, lit) {
    const address = `/api/graphs/${encodeURIComponent(graph)}/backdrop_shader?${asked(lit)}`;
    const { shader, values } = await getJson(`${address}&${new URLSearchParams({ variant })}`);
    const own = shader.samplers.filter((/** @type {{ name: string }} */ { name }) => !(name in this.uniforms));
    const textures = await Promise.all(own.map((/** @type {any} */ sampler) => this.pool.get(sampler)));
    const bound = own.map((/** @type {{ name: string }} */ { name }, /** @type {number} */ at) => [
      name,
      { value: textures[at] },
    ]);
    return { texts: shader, own: { ...Object.fromEntries(bound), values: { value: new Float32Array(values) } } };
  }

  /** Puts the form that it is as large, and as turned, as it stands. */
  pose() {
    if (!this.isOwn || !this.form) return;
    for (const part of this.loaded?.parts ?? []) {
      part.scale.copy(this.form.mesh.scale);
      part.rotation.copy(this.form.mesh.rotation);
    }
  }

  /** What was drawn is not there any more. */
  spoil() {
    this.drawn = "";
  }

  /**
   * Draws what lies behind, before the scene that reads it is drawn; where nothing changed, the picture there is does.
   * @param {THREE.Camera} camera
   * @param {string} shadows what the sun sees, by everything that hangs on
   * @param {THREE.WebGLRenderTarget} next where the scene in front goes
   */
  draw(camera, shadows, next) {
    const { uniforms, loaded } = this;
    // What is drawn here may not read the picture it is drawn into.
    uniforms.texture_backdrop.value = this.nothing;
    if (!loaded) return;
    const target = this.sized(this.target);
    const { width, height } = target;
    const eye = [camera.matrixWorld, camera.projectionMatrix].map((matrix) => matrix.toArray());
    const pose = this.isOwn && this.form ? [this.form.mesh.scale.toArray(), this.form.mesh.rotation.y] : [];
    const state = [loaded.seen.uuid, width, height, this.far, eye, pose, shadows, loaded.readings()].join();
    if (state !== this.drawn) this.#draw(camera, target, next);
    this.drawn = state;
    uniforms.texture_backdrop.value = target.texture;
  }

  /**
   * Draws it as decals have left its surface.
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} next where the scene in front goes
   */
  drawUnderDecals(camera, next) {
    this.uniforms.texture_backdrop.value = this.nothing;
    this.#draw(camera, this.sized(this.withDecals), next);
  }

  /** A target of its own, as large as the screen. @param {THREE.WebGLRenderTarget} target */
  sized(target) {
    const { x: width, y: height } = this.uniforms.screen_size.value;
    if (target.width !== width || target.height !== height) target.setSize(width, height);
    return target;
  }

  /**
   * @param {THREE.Camera} camera
   * @param {THREE.WebGLRenderTarget} target
   * @param {THREE.WebGLRenderTarget} next
   */
  #draw(camera, target, next) {
    const { renderer } = this;
    const kept = renderer.autoClear;
    this.pose();
    renderer.setRenderTarget(target);
    renderer.clear(true, true, false);
    // Past the renderer, which would weaken the colour by the distance as if that were an alpha.
    const gl = /** @type {WebGL2RenderingContext} */ (renderer.getContext());
    gl.clearBufferfv(gl.COLOR, 0, new Float32Array(this.far));
    renderer.autoClear = false;
    renderer.render(this.scene, camera);
    renderer.autoClear = kept;
    renderer.setRenderTarget(next);
  }
}
