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

/**
 * The mesh as a level of it is fetched.
 * @template {MeshRead} Mesh
 * @param {Mesh} mesh
 * @param {number} level
 * @returns {Mesh}
 */
export const asLevel = (mesh, level) =>
  mesh.levels[level - 1] ? { ...mesh, drawn: mesh.levels[level - 1].drawn } : mesh;
