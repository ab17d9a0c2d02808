/** Textures of the stage, with the very levels the core made. */
import * as THREE from "three";
import { send } from "moth/base/api.js";
import { loadLevels } from "moth/pictures/levels.js";

const TYPES = { uint8: THREE.UnsignedByteType, float16: THREE.HalfFloatType, float32: THREE.FloatType };
const WRAP = {
  repeat: THREE.RepeatWrapping,
  clamp: THREE.ClampToEdgeWrapping,
  mirror: THREE.MirroredRepeatWrapping,
};

/**
 * @param {Response} response
 * @returns {[number, number]}
 */
function sizeOf(response) {
  const [width, height] = (response.headers.get("X-Texture-Size") ?? "1 1").split(" ").map(Number);
  return [width, height];
}

/**
 * A picture of half floats without levels.
 * @param {string} address
 */
async function loadPicture(address) {
  const response = await send(address);
  const [width, height] = sizeOf(response);
  const data = new Uint16Array(await response.arrayBuffer());
  const made = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.HalfFloatType);
  made.minFilter = made.magFilter = THREE.LinearFilter;
  /** Nine harmonics of the diffuse light, each of three numbers. @type {number[]} */
  made.userData.harmonics = (response.headers.get("X-Texture-Harmonics") ?? "").split(" ").map(Number);
  return made;
}

/**
 * @param {string} id
 * @param {number} revision
 * @returns {Promise<THREE.DataTexture>}
 */
async function load(id, revision) {
  const { levels, depth, isColour } = await loadLevels(id, revision);
  const [{ data, width, height }] = levels;
  const made = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, TYPES[/** @type {"uint8"} */ (depth)]);
  made.mipmaps = /** @type {any} */ (levels);
  // Floats are light already.
  made.colorSpace = isColour && depth === "uint8" ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  made.minFilter = THREE.LinearMipmapLinearFilter;
  made.magFilter = THREE.LinearFilter;
  return made;
}

/** What tells two bound textures apart. @param {import("../types.d.ts").Sampler} sampler */
export const nameOf = ({ texture, revision, wrap, filter }) => `${texture} ${revision} ${wrap} ${filter}`;

/** @typedef {{ texture: string, revision: number }} Around a texture of all directions */

/**
 * A texture of one pixel.
 * @param {number[]} values
 */
export function pixel(values) {
  const made = new THREE.DataTexture(new Float32Array(values), 1, 1, THREE.RGBAFormat, THREE.FloatType);
  made.needsUpdate = true;
  return made;
}

/** Loads each texture once; a use with other wraps or another filter gets a texture of its own. */
export class TexturePool {
  constructor() {
    /** @type {Map<string, Promise<THREE.DataTexture>>} */
    this.loaded = new Map();
  }

  /**
   * The surroundings of a light rig, or of a texture in their place.
   * @param {string} rig
   * @param {Around | null} [around]
   * @returns {Promise<THREE.DataTexture>}
   */
  environment(rig, around = null) {
    const key = around ? `around ${around.texture} ${around.revision}` : `rig ${rig}`;
    let found = this.loaded.get(key);
    if (!found) {
      found = loadPicture(
        around
          ? `/api/stage/environments/${encodeURIComponent(around.texture)}?v=${around.revision}`
          : `/api/stage/environment/${encodeURIComponent(rig)}`,
      ).then((texture) => {
        texture.wrapS = THREE.RepeatWrapping;
        texture.needsUpdate = true;
        return texture;
      });
      found.catch(() => this.loaded.delete(key));
      this.loaded.set(key, found);
    }
    return found;
  }

  /**
   * @param {import("../types.d.ts").Sampler} sampler
   * @returns {Promise<THREE.DataTexture>}
   */
  get(sampler) {
    const key = nameOf(sampler);
    let found = this.loaded.get(key);
    if (!found) {
      found = load(sampler.texture, sampler.revision)
        .catch((error) => {
          const missing = sampler.texture !== "missing:white" && error.status === 404;
          return missing ? load("missing:white", 0) : Promise.reject(error);
        })
        .then((texture) => {
          [texture.wrapS, texture.wrapT] = sampler.wrap.map((w) => WRAP[w]);
          if (sampler.filter === "pixels") {
            texture.magFilter = THREE.NearestFilter;
            texture.minFilter = THREE.NearestMipmapLinearFilter;
          }
          texture.generateMipmaps = false;
          texture.flipY = false;
          texture.needsUpdate = true;
          return texture;
        });
      found.catch(() => this.loaded.delete(key));
      this.loaded.set(key, found);
    }
    return found;
  }
}
