/** Blocks that were asked for and not answered yet, so that the hand sees them at once. */

/** @typedef {import("./aids.js").Cell} Cell */
/** Where they are among the chunks. */
const PLACE = ["proposed"];
/** A little larger than a block, so that they cover what is there. */
const LARGER = 1.004;

/**
 * @param {Cell[]} cells
 * @param {number} entry
 * @param {number} size of a block, metres
 * @param {import("../types.d.ts").BlockSettings} settings
 * @returns {import("../stage/chunks.js").Chunk}
 */
export function proposed(cells, entry, size, { block, origin }) {
  const repeated = /** @param {number[]} one */ (one) => cells.flatMap(() => one);
  const position = cells.flatMap((cell) =>
    block.position.map((part, at) => {
      const axis = at % 3;
      return (cell[axis] - origin[axis] + (part - 0.5) * LARGER + 0.5) * size;
    }),
  );
  const corners = position.length / 3;
  return {
    at: /** @type {any} */ (PLACE),
    faces: corners / 4,
    position: new Float32Array(position),
    second: new Float32Array(Array.from({ length: corners * 2 }, (_, at) => (at % 2 ? size : entry))),
    uv: new Int16Array(repeated(block.uv)),
    normal: new Int8Array(repeated(block.normal).map((part) => part * 127)),
    tangent: new Int8Array(repeated(block.tangent).map((part) => part * 127)),
  };
}
