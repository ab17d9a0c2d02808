/** The levels of a texture, as the core made them. */
import { send } from "moth/base/api.js";

/** @typedef {Uint8Array | Uint16Array | Float32Array} Samples half floats come as the 16 bits they are */
/** @typedef {{ data: Samples, width: number, height: number }} Level RGBA, row 0 at the bottom */
/**
 * `whole` is the picture's own size, of which `levels[0]` may be a smaller one; `depth` is uint8, float16 or float32;
 * `isColour` tells that 8-bit samples are encoded colours, and floats light; `isGlimpse` that the core has not read it.
 * @typedef {{ levels: Level[], whole: [number, number], depth: string, isColour: boolean, isGlimpse?: boolean }} Levels
 */

const KINDS = { uint8: Uint8Array, float16: Uint16Array, float32: Float32Array };

/** @param {string | null} text @returns {[number, number]} */
const pair = (text) => {
  const [width, height] = (text ?? "1 1").split(" ").map(Number);
  return [width, height];
};

/**
 * @param {string} id
 * @param {number} revision which state of it, so that a changed texture is fetched anew
 * @param {number} [most] the largest side wanted
 * @returns {Promise<Levels>}
 */
export async function loadLevels(id, revision, most) {
  const asked = `v=${revision}${most ? `&most=${most}` : ""}`;
  const { headers, bytes } = await fetched(`/api/textures/${encodeURIComponent(id)}/levels?${asked}`);
  const depth = headers.get("X-Texture-Depth") ?? "uint8";
  const levels = splitLevels(bytes, KINDS[/** @type {"uint8"} */ (depth)], pair(headers.get("X-Texture-Size")));
  const whole = pair(headers.get("X-Texture-Whole"));
  return { levels, whole, depth, isColour: headers.get("X-Texture-Colour") === "1" };
}

/** @param {string} url */
async function fetched(url) {
  const response = await send(url);
  return { headers: response.headers, bytes: await response.arrayBuffer() };
}

/**
 * @param {ArrayBuffer} bytes
 * @param {Uint8ArrayConstructor | Uint16ArrayConstructor | Float32ArrayConstructor} Kind
 * @param {[number, number]} size of the first
 */
function splitLevels(bytes, Kind, [width, height]) {
  const levels = [];
  let at = 0;
  for (let [w, h] = [width, height]; at < bytes.byteLength; [w, h] = [Math.max(w >> 1, 1), Math.max(h >> 1, 1)]) {
    levels.push({ data: new Kind(bytes, at, w * h * 4), width: w, height: h });
    at += w * h * 4 * Kind.BYTES_PER_ELEMENT;
  }
  return levels;
}
