/** Picking a colour from what is on the screen: the stage, or the picture pinned beside it. */
import { fromHex } from "moth/fields/colour.js";
import { h } from "moth/base/dom.js";

/** @typedef {{ width: number, height: number, data: Uint8Array | Uint8ClampedArray, isUpsideDown: boolean }} Picture */
/** @typedef {{ element: HTMLElement, read: () => Promise<Picture> }} Source */

/** Where colours can be picked from. @type {Set<Source>} */
export const sources = new Set();

/**
 * @param {Picture} picture
 * @param {number} x 0..1 from the left
 * @param {number} y 0..1 from the top
 * @returns {string} "#RRGGBB"
 */
function colourAt({ width, height, data, isUpsideDown }, x, y) {
  const column = Math.min(width - 1, Math.max(0, Math.floor(x * width)));
  const row = Math.min(height - 1, Math.max(0, Math.floor(y * height)));
  const at = ((isUpsideDown ? height - 1 - row : row) * width + column) * 4;
  return `#${[...data.subarray(at, at + 3)].map((c) => c.toString(16).padStart(2, "0")).join("")}`.toUpperCase();
}

/**
 * Follows the pointer until a press takes the colour under it; Escape gives up.
 * @param {{ preview: (linear: number[]) => void, done: (linear: number[] | null) => void }} options
 */
export async function pickColour({ preview, done }) {
  const pictures = await Promise.all(
    [...sources].map(async ({ element, read }) => ({ element, picture: await read() })),
  );
  const tag = h(
    "div",
    { class: "eyedropper-tag mono", role: "status" },
    "Press on the stage or the reference; Escape gives up",
  );
  document.body.append(tag);
  document.body.classList.add("picking");
  /** @param {PointerEvent} event */
  const found = ({ clientX, clientY }) => {
    // The picture on top comes last.
    for (const { element, picture } of pictures.toReversed()) {
      const box = element.getBoundingClientRect();
      const [x, y] = [(clientX - box.left) / box.width, (clientY - box.top) / box.height];
      if (x >= 0 && x < 1 && y >= 0 && y < 1) return colourAt(picture, x, y);
    }
    return "";
  };
  /** @param {PointerEvent} event */
  const move = (event) => {
    const hex = found(event);
    tag.textContent = hex || "Only the stage and the reference have colours to pick";
    tag.style.setProperty("--picked", hex || "transparent");
    tag.style.left = `${Math.min(event.clientX + 16, innerWidth - 240)}px`;
    tag.style.top = `${Math.min(event.clientY + 16, innerHeight - 40)}px`;
    const linear = hex ? fromHex(hex) : null;
    if (linear) preview(linear);
  };
  /** @param {number[] | null} linear */
  const end = (linear) => {
    tag.remove();
    document.body.classList.remove("picking");
    removeEventListener("pointermove", move, true);
    removeEventListener("pointerdown", press, true);
    removeEventListener("keydown", key, true);
    done(linear);
  };
  /** @param {PointerEvent} event */
  const press = (event) => {
    event.preventDefault();
    event.stopImmediatePropagation();
    const hex = found(event);
    if (hex) end(fromHex(hex));
  };
  /** @param {KeyboardEvent} event */
  const key = (event) => {
    if (event.key !== "Escape") return;
    event.preventDefault();
    event.stopImmediatePropagation();
    end(null);
  };
  // On the way down and before everything else: a pick must not orbit the stage or close the colour's panel.
  addEventListener("pointermove", move, true);
  addEventListener("pointerdown", press, true);
  addEventListener("keydown", key, true);
}
