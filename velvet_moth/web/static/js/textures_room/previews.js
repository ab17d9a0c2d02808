/** Pictures that came as addresses, as textures of one level. */

/**
 * A picture that came as an address, its alpha apart, as a texture of one level.
 * @param {string} address
 * @param {string} alpha
 * @param {[number, number]} whole
 * @param {string} role
 */
export async function levelsOf(address, alpha, [width, height], role) {
  const data = new Uint8Array((await bytesOf(address, width, height)).buffer);
  const other = alpha ? await bytesOf(alpha, width, height) : null;
  if (other) for (let at = 0; at < data.length; at += 4) data[at + 3] = other[at];
  /** @type {import("../levels.js").Levels} */
  const made = {
    levels: [{ data, width, height }],
    whole: [width, height],
    depth: "uint8",
    isColour: role === "colour",
  };
  return made;
}

/** @param {string} address @param {number} width @param {number} height */
async function bytesOf(address, width, height) {
  const image = new Image();
  image.src = address;
  await image.decode();
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [width, height];
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d", { willReadFrequently: true }));
  // Files hold their first row at the top.
  context.translate(0, height);
  context.scale(1, -1);
  context.drawImage(image, 0, 0);
  return context.getImageData(0, 0, width, height).data;
}
