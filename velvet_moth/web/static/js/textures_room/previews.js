/** Pictures as the browser itself reads them, as textures of one level. */

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
  /** @type {import("../pictures/levels.js").Levels} */
  const made = {
    levels: [{ data, width, height }],
    whole: [width, height],
    depth: "uint8",
    isColour: role === "colour",
  };
  return made;
}

/**
 * A file while it is still on its way to the core: smaller, as the browser reads it, so without values to be told.
 * Nothing where the browser cannot read it, which says nothing of the file.
 * @param {File} file
 * @param {number} most the largest side
 * @returns {Promise<import("../pictures/levels.js").Levels | null>}
 */
export async function glimpseOf(file, most) {
  const image = await createImageBitmap(file, { colorSpaceConversion: "none" }).catch(() => null);
  if (!image) return null;
  const scale = Math.min(1, most / Math.max(image.width, image.height));
  const [width, height] = [image.width, image.height].map((side) => Math.max(1, Math.round(side * scale)));
  const data = new Uint8Array(pixelsOf(image, width, height).buffer);
  const levels = [{ data, width, height }];
  return { levels, whole: [image.width, image.height], depth: "uint8", isColour: true, isGlimpse: true };
}

/** @param {string} address @param {number} width @param {number} height */
async function bytesOf(address, width, height) {
  const image = new Image();
  image.src = address;
  await image.decode();
  return pixelsOf(image, width, height);
}

/** @param {CanvasImageSource} image @param {number} width @param {number} height */
function pixelsOf(image, width, height) {
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [width, height];
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d", { willReadFrequently: true }));
  // Files hold their first row at the top.
  context.translate(0, height);
  context.scale(1, -1);
  context.drawImage(image, 0, 0, width, height);
  return context.getImageData(0, 0, width, height).data;
}
