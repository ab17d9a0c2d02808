/** Pictures of the stage as files: one at a chosen size, or all variants on one sheet. */
import { answers, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { saveFile } from "moth/base/downloads.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("../../stage/stage.js").Stage} Stage */

const SIZES = { 512: "512 pixels high", 1024: "1024 pixels high", 2048: "2048 pixels high" };
const TILE = { width: 480, height: 300, caption: 34, across: 3 };

/**
 * Pixels (row 0 at the bottom) on a canvas.
 * @param {Uint8Array} pixels
 * @param {number} width
 * @param {number} height
 */
export function canvasOf(pixels, width, height) {
  const canvas = h("canvas", { width, height });
  const image = new ImageData(width, height);
  for (let row = 0; row < height; row += 1)
    image.data.set(pixels.subarray((height - 1 - row) * width * 4, (height - row) * width * 4), row * width * 4);
  /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d")).putImageData(image, 0, 0);
  return canvas;
}

/**
 * @param {HTMLCanvasElement} canvas
 * @param {string} name
 */
function save(canvas, name) {
  canvas.toBlob((file) => {
    if (!file) return notice("The picture could not be made.", { mend: "Try a smaller size.", wrong: true });
    saveFile(file, `${fileName(name)}.png`);
  }, "image/png");
}

/** @param {string} title */
const fileName = (title) =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "") || "picture";

/**
 * Says that something is being drawn, which takes seconds on a slow machine, until it is.
 * @param {string} words
 * @param {() => Promise<void>} draw
 */
async function whileDrawn(words, draw) {
  const done = notice(words, { stay: true });
  // The words are seen before the GPU is busy.
  for (let frame = 0; frame < 2; frame += 1) await new Promise(requestAnimationFrame);
  await draw().catch(tell).finally(done);
}

/**
 * Asks for the size, and saves what the stage shows.
 * @param {Stage} stage
 * @param {string} title
 */
export function saveStill(stage, title) {
  const size = h(
    "select",
    { class: "field", "aria-label": "Size" },
    Object.entries(SIZES).map(([value, words]) => h("option", { value, selected: value === "1024" }, words)),
  );
  const clear = h("input", { type: "checkbox", "aria-label": "Clear where there is nothing" });
  const form = h(
    "form",
    { method: "dialog" },
    h("label", { class: "line" }, h("span", {}, "Size"), size),
    h("label", { class: "line" }, h("span", {}, "Clear where there is nothing"), clear),
    answers("Save"),
  );
  form.addEventListener("submit", () => {
    const height = Number(size.value);
    const width = Math.round((height * stage.canvas.clientWidth) / stage.canvas.clientHeight);
    const still = { isClear: clear.checked, isSmooth: true };
    void whileDrawn("The picture is being drawn …", async () => {
      const pixels = await stage.snapshot(width, height, still);
      save(canvasOf(pixels, width, height), title);
    });
  });
  sheet("Save picture", form);
}

/**
 * Saves every variant, seen alike, with its name.
 * @param {string} title
 * @param {{ id: string, name: string }[]} variants
 * @param {(id: string, width: number, height: number) => Promise<Uint8Array | null>} picture
 */
export const saveSheet = (title, variants, picture) =>
  whileDrawn("The variants are being drawn …", async () => {
    const { width, height, caption, across } = TILE;
    const columns = Math.min(across, variants.length);
    const rows = Math.ceil(variants.length / columns);
    const canvas = h("canvas", { width: columns * width, height: rows * (height + caption) });
    const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    context.fillStyle = "#faf8f4";
    context.fillRect(0, 0, canvas.width, canvas.height);
    context.fillStyle = "#2b2230";
    context.font = '600 16px "Instrument Sans", sans-serif';
    for (const [index, { id, name }] of variants.entries()) {
      const [x, y] = [(index % columns) * width, Math.floor(index / columns) * (height + caption)];
      const pixels = await picture(id, width, height);
      if (pixels) context.drawImage(canvasOf(pixels, width, height), x, y);
      context.fillText(name, x + 10, y + height + 22);
    }
    save(canvas, `${title} variants`);
  });
