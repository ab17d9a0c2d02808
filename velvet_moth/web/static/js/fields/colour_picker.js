/** The one way to choose a colour: hue, saturation, brightness, sRGB hex, linear values, or a pick from the stage. */
import { popover } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { parseNumbers } from "moth/fields/arithmetic.js";
import { fromHex, fromHsv, toHex, toHsv } from "moth/fields/colour.js";
import { pickColour, sources } from "moth/fields/eyedropper.js";

/**
 * @typedef {object} ColourOptions
 * @property {number[]} value linear red, green and blue
 * @property {string} label
 * @property {(value: number[]) => void} drag shows a value at once, before it is kept
 * @property {(value: number[]) => void} keep
 * @property {string} [key]
 * @property {boolean} [text] whether the hex number stands beside the colour
 */

/**
 * @param {string} label
 * @param {number} value 0..1
 * @param {number} most
 * @param {(value: number, last: boolean) => void} changed
 */
function slide(label, value, most, changed) {
  const input = h("input", {
    type: "range",
    min: 0,
    max: most,
    step: most / 360,
    value: String(value),
    "aria-label": label,
  });
  input.addEventListener("input", () => changed(Number(input.value), false));
  input.addEventListener("change", () => changed(Number(input.value), true));
  return h("label", { class: "slide" }, h("span", {}, label), input);
}

/**
 * @param {ColourOptions} options
 * @returns {HTMLElement} the fields of a colour, to stand in a panel
 */
export function colourPicker({ value, label, drag, keep }) {
  const triple = value.length === 3 ? value : Array(3).fill(value[0]);
  let [hue, saturation, brightness] = toHsv(triple);
  let current = triple;
  const hex = h("input", { class: "field mono", "aria-label": `${label}, sRGB hex`, maxlength: 7 });
  const linear = h("input", { class: "field mono wide", "aria-label": `${label}, linear red green blue` });
  /** @param {number[]} next @param {boolean} last */
  const show = (next, last) => {
    current = next;
    hex.value = toHex(next);
    linear.value = next.map((n) => n.toFixed(3)).join(" ");
    (last ? keep : drag)(next);
  };
  /** @param {boolean} last */
  const turned = (last) => show(fromHsv(hue, saturation, brightness), last);
  const sliders = h(
    "div",
    {},
    slide("Hue", hue, 359.9, (v, last) => ((hue = v), turned(last))),
    slide("Saturation", saturation, 1, (v, last) => ((saturation = v), turned(last))),
    slide("Brightness", brightness, 1, (v, last) => ((brightness = v), turned(last))),
  );
  hex.value = toHex(triple);
  linear.value = triple.map((n) => n.toFixed(3)).join(" ");
  hex.addEventListener("change", () => {
    const typed = fromHex(hex.value);
    hex.setAttribute("aria-invalid", String(!typed));
    if (typed) show(typed, true);
  });
  linear.addEventListener("change", () => {
    const typed = parseNumbers(linear.value, 3);
    linear.setAttribute("aria-invalid", String(!typed));
    if (typed) show(typed, true);
  });
  const pick = h("button", { type: "button", class: "button small" }, "Pick from the stage");
  pick.addEventListener("click", () => {
    const before = current;
    const done = (/** @type {number[] | null} */ picked) => show(picked ?? before, true);
    void pickColour({ preview: (picked) => show(picked, false), done });
  });
  return h(
    "div",
    { class: "colour-picker" },
    sliders,
    sources.size ? pick : null,
    h("label", { class: "slide" }, h("span", {}, "sRGB"), hex),
    h("label", { class: "slide" }, h("span", {}, "Linear"), linear),
  );
}

/**
 * @param {HTMLElement} anchor
 * @param {ColourOptions} options
 */
function colourPanel(anchor, options) {
  const picker = colourPicker(options);
  popover(anchor, h("div", { class: "colour-panel", role: "dialog", "aria-label": options.label }, picker));
  const hex = /** @type {HTMLInputElement} */ (picker.querySelector("input[maxlength]"));
  hex.focus();
  hex.select();
}

/**
 * A button that shows a colour and opens its panel.
 * @param {ColourOptions} options
 * @returns {HTMLButtonElement}
 */
export function colourField(options) {
  const swatch = h("span", { class: "colour-chip" });
  swatch.style.background = toHex(options.value);
  const button = h(
    "button",
    {
      type: "button",
      class: "colour-field",
      "aria-label": `${options.label}, ${toHex(options.value)}`,
      data: options.key ? { focus: options.key } : {},
      onclick: () => colourPanel(button, options),
    },
    swatch,
    options.text === false ? null : h("span", { class: "mono" }, toHex(options.value)),
  );
  return button;
}
