/** Textures of the stage, with the very levels the core made. */
import * as THREE from "three";
import { send } from "moth/api.js";

/** What the stage brings by itself, whatever the graph. */
const STAGE_TEXTURES = ["environment", "backdrop", "sun_reach"];
const WRAP = { repeat: THREE.RepeatWrapping, clamp: THREE.ClampToEdgeWrapping };

/**
 * @param {Response} response
 * @returns {[number, number]}
 */
function sizeOf(response) {
  const [width, height] = (response.headers.get("X-Texture-Size") ?? "1 1").split(" ").map(Number);
  return [width, height];
}

/**
 * @param {ArrayBuffer} bytes
 * @param {number} width
 * @param {number} height
 */
function splitLevels(bytes, width, height) {
  const levels = [];
  let at = 0;
  for (let [w, h] = [width, height]; at < bytes.byteLength; [w, h] = [Math.max(w >> 1, 1), Math.max(h >> 1, 1)]) {
    levels.push({ data: new Uint8Array(bytes, at, w * h * 4), width: w, height: h });
    at += w * h * 4;
  }
  return levels;
}

/**
 * @param {string} id
 * @returns {Promise<THREE.DataTexture>}
 */
async function load(id) {
  if (STAGE_TEXTURES.includes(id)) {
    const response = await send(`/api/stage/textures/${id}`);
    const [width, height] = sizeOf(response);
    const data = new Uint16Array(await response.arrayBuffer());
    const made = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.HalfFloatType);
    made.minFilter = made.magFilter = THREE.LinearFilter;
    return made;
  }
  const response = await send(`/api/textures/${encodeURIComponent(id)}/levels`);
  const [width, height] = sizeOf(response);
  const levels = splitLevels(await response.arrayBuffer(), width, height);
  const made = new THREE.DataTexture(levels[0].data, width, height, THREE.RGBAFormat, THREE.UnsignedByteType);
  made.mipmaps = levels;
  made.colorSpace = response.headers.get("X-Texture-Colour") === "1" ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  made.minFilter = THREE.LinearMipmapLinearFilter;
  made.magFilter = THREE.LinearFilter;
  return made;
}

/** Loads each texture once; a use with other wraps gets a texture of its own. */
export class TexturePool {
  constructor() {
    /** @type {Map<string, Promise<THREE.DataTexture>>} */
    this.loaded = new Map();
  }

  /**
   * @param {import("../types.d.ts").Sampler} sampler
   * @returns {Promise<THREE.DataTexture>}
   */
  get(sampler) {
    const key = `${sampler.texture} ${sampler.wrap}`;
    let found = this.loaded.get(key);
    if (!found) {
      found = load(sampler.texture)
        .catch((error) => {
          const missing = sampler.texture !== "missing:white" && error.status === 404;
          return missing ? load("missing:white") : Promise.reject(error);
        })
        .then((texture) => {
          [texture.wrapS, texture.wrapT] = sampler.wrap.map((w) => WRAP[/** @type {"repeat"} */ (w)]);
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
