/** Which level of detail of a mesh is drawn: a chosen one, or the one that its size on screen asks for. */

/** @typedef {import("../types.d.ts").MeshRead} MeshRead */

/** The level that the distance asks for, in the place of a number; 0 is the full mesh. */
export const BY_DISTANCE = "distance";

/**
 * The size of a mesh beside the height of the picture.
 * @param {number} diameter metres
 * @param {number} distance metres from the eye
 * @param {number} field degrees from the lower edge to the upper one
 */
export const screenSize = (diameter, distance, field) =>
  diameter / Math.max(2 * distance * Math.tan((field * Math.PI) / 360), 1e-9);

/**
 * The number of the level that is shown at a size: the last one whose own size is not smaller.
 * @param {MeshRead["levels"]} levels
 * @param {number} size
 */
export const levelAt = (levels, size) => levels.filter(({ screen }) => size < screen).length;

/** So many triangles at most all instances together have while the picture moves, where their form can be made coarser. */
const MOVING_TRIANGLES = 100_000;

/**
 * The key of a coarser form for a picture that moves; the same key where there is none, or no need.
 * @param {string} key such as "plane:24"
 * @param {{ low: number, default: number } | undefined} cells of how many cells it can be made
 * @param {number} triangles that all instances together have
 */
export function coarserForm(key, cells, triangles) {
  if (!cells || triangles <= MOVING_TRIANGLES) return key;
  const [kind, count = cells.default] = key.split(":");
  return `${kind}:${Math.max(cells.low, Math.floor(Number(count) * Math.sqrt(MOVING_TRIANGLES / triangles)))}`;
}

/**
 * The mesh as a level of it is fetched.
 * @template {MeshRead} Mesh
 * @param {Mesh} mesh
 * @param {number} level
 * @returns {Mesh}
 */
export const asLevel = (mesh, level) =>
  mesh.levels[level - 1] ? { ...mesh, drawn: mesh.levels[level - 1].drawn } : mesh;
