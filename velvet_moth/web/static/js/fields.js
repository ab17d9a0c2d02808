/** Fields for values: typed numbers, pairs and triples, and colours. */
import { fromHex, fromHsv, toHex, toHsv } from "moth/colour.js";
import { popover } from "moth/dialogs.js";
import { h } from "moth/dom.js";

/**
 * A number with as many places as it needs, up to four.
 * @param {number} value
 */
export const numberText = (value) => {
  const size = Math.abs(value);
  if (size >= 100000) return value.toExponential(2);
  return String(Number(value.toFixed(size < 0.1 ? 4 : size < 1 ? 3 : 2)));
};

/** @param {number[]} value */
export const valueText = (value) => value.map(numberText).join(value.length === 2 ? " × " : " ");

/**
 * @param {string} text
 * @param {number} width how many numbers are needed; one number stands for all of them
 * @returns {number[] | null}
 */
export function parseNumbers(text, width) {
  const parts = text
    .trim()
    .replace(/,(?=\d)/g, ".")
    .split(/\s*[×x;]\s*|\s+/);
  const numbers = parts.map(Number);
  if (!text.trim() || numbers.some((n) => !Number.isFinite(n) || Math.abs(n) > 1e6)) return null;
  if (numbers.length === 1) return Array(width).fill(numbers[0]);
  return numbers.length === width ? numbers : null;
}

/**
 * A typed field. Enter or leaving keeps the value, Escape takes it back; what is no number is marked.
 * @param {{ value: number[], label: string, keep: (value: number[]) => void, key?: string, tight?: boolean }} options
 * @returns {HTMLInputElement}
 */
export function numbersField({ value, label, keep, key, tight }) {
  const shown = tight ? valueText(value).replace(" × ", "×") : valueText(value);
  const input = h("input", {
    class: `field mono ${["", "pair", "triple"][value.length - 1] ?? "triple"}`,
    value: shown,
    "aria-label": label,
    inputmode: "decimal",
    autocomplete: "off",
    spellcheck: "false",
    data: key ? { focus: key } : {},
  });
  const commit = () => {
    if (input.value === shown) return;
    const parsed = parseNumbers(input.value, value.length);
    input.setAttribute("aria-invalid", String(!parsed));
    input.title = parsed
      ? ""
      : `Type ${value.length === 1 ? "a number" : `${value.length} numbers`}, such as ${shown}.`;
    if (parsed && parsed.some((n, i) => n !== value[i])) keep(parsed);
  };
  input.addEventListener("blur", commit);
  input.addEventListener("keydown", (event) => {
    if (event.key === "Enter") commit();
    else if (event.key === "Escape") {
      input.value = shown;
      input.removeAttribute("aria-invalid");
      // On a card the key goes on to the pane, which takes the keyboard back to the card.
      if (input.closest(".card")) return;
      input.blur();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const step = (event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 0.1 : 0.01);
      const now = parseNumbers(input.value, value.length);
      if (now)
        input.value = valueText(now.map((n) => n + step * Math.max(1, 10 ** Math.floor(Math.log10(Math.abs(n) || 1)))));
      event.preventDefault();
    } else return;
    event.stopPropagation();
  });
  input.addEventListener("focus", () => input.select());
  return input;
}

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
 * The panel below a colour: hue, saturation, brightness, hex and linear values.
 * @param {HTMLElement} anchor
 * @param {{ value: number[], label: string, drag: (value: number[]) => void, keep: (value: number[]) => void }} options
 */
export function colourPanel(anchor, { value, label, drag, keep }) {
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
  const panel = h(
    "div",
    { class: "colour-panel", role: "dialog", "aria-label": label },
    sliders,
    h("label", { class: "slide" }, h("span", {}, "sRGB"), hex),
    h("label", { class: "slide" }, h("span", {}, "Linear"), linear),
  );
  popover(anchor, panel);
  hex.focus();
  hex.select();
  return () => current;
}

/**
 * A button that shows a colour and opens its panel.
 * @param {{ value: number[], label: string, drag: (value: number[]) => void, keep: (value: number[]) => void, key?: string, text?: boolean }} options
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
