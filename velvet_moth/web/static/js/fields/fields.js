/** Fields for values: typed numbers, pairs and triples. */
import { parseNumbers } from "moth/fields/arithmetic.js";
import { follow, h } from "moth/base/dom.js";

/** Said of a number that JSON cannot hold, such as one that has grown without end. */
export const BEYOND = "beyond what can be shown";

/**
 * A number with as many places as it needs, up to four.
 * @param {number | null} value
 */
export const numberText = (value) => {
  if (value === null) return BEYOND;
  const size = Math.abs(value);
  if (size >= 100000) return Number(value.toPrecision(3)).toExponential().replace("e+", "e");
  return String(Number(value.toFixed(size < 0.1 ? 4 : size < 1 ? 3 : 2)));
};

/** @param {number[]} value */
export const valueText = (value) => value.map(numberText).join(value.length === 2 ? " × " : " ");

/**
 * @typedef {object} NumbersOptions
 * @property {number[]} value
 * @property {string} label
 * @property {(value: number[]) => void} keep
 * @property {(value: number[]) => void} [drag] shows a value at once, before it is kept
 * @property {number} [step] what a pixel of dragging and an arrow key change
 * @property {string} [key]
 * @property {boolean} [tight]
 */

/**
 * A typed field. Enter or leaving keeps the value, Escape takes it back; what is no number is marked. A drag
 * sideways turns the number under the pointer: finely with Shift, coarsely with Alt.
 * @param {NumbersOptions} options
 * @returns {HTMLInputElement}
 */
export function numbersField({ value, label, keep, drag, step = 0.01, key, tight }) {
  const shown = tight ? valueText(value).replace(" × ", "×") : valueText(value);
  const input = h("input", {
    class: `field mono turnable ${["", "pair", "triple"][value.length - 1] ?? "triple"}`,
    value: shown,
    "aria-label": label,
    inputmode: "decimal",
    autocomplete: "off",
    spellcheck: "false",
    data: key ? { focus: key } : {},
  });
  let text = shown;
  const commit = () => {
    if (input.value === text) return;
    const parsed = parseNumbers(input.value, value.length);
    input.setAttribute("aria-invalid", String(!parsed));
    input.title = parsed
      ? ""
      : `Type ${value.length === 1 ? "a number" : `${value.length} numbers`}, such as ${shown} or ${value.length === 1 ? "1/12" : value.map(() => "1/2").join(" ")}.`;
    // Kept by Enter, it is not kept again when the field is left.
    if (parsed) text = input.value;
    if (parsed && parsed.some((n, i) => n !== value[i])) keep(parsed);
  };
  input.addEventListener("blur", commit);
  input.addEventListener("keydown", (event) => {
    if (event.key === "Enter") commit();
    else if (event.key === "Escape") {
      input.value = text = shown;
      input.removeAttribute("aria-invalid");
      // On a card or its slip the key goes on, and takes the keyboard back to the card.
      if (input.closest(".card, .slip")) return;
      input.blur();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const by = (event.key === "ArrowUp" ? 1 : -1) * step * factorOf(event);
      const now = parseNumbers(input.value, value.length);
      if (now) input.value = valueText(now.map((n) => n + by));
      event.preventDefault();
    } else return;
    event.stopPropagation();
  });
  input.addEventListener("focus", () => input.select());
  scrub(input, { value, keep, drag, step });
  return input;
}

/**
 * How far a movement goes with the keys held.
 * @param {{ shiftKey: boolean, altKey: boolean }} event
 */
const factorOf = ({ shiftKey, altKey }) => (shiftKey ? 0.1 : altKey ? 10 : 1);

/**
 * Turning a number by dragging its field sideways. A press without a drag is for typing.
 * @param {HTMLInputElement} input
 * @param {{ value: number[], keep: (value: number[]) => void, drag?: (value: number[]) => void, step: number }} options
 */
function scrub(input, { value, keep, drag, step }) {
  input.addEventListener("pointerdown", (start) => {
    if (start.button !== 0 || document.activeElement === input) return;
    start.preventDefault();
    start.stopPropagation();
    const box = input.getBoundingClientRect();
    const part = Math.min(value.length - 1, Math.floor(((start.clientX - box.left) / box.width) * value.length));
    const now = [...value];
    let last = start.clientX;
    follow(
      start,
      (_dx, _dy, event) => {
        now[part] = Number((now[part] + (event.clientX - last) * step * factorOf(event)).toPrecision(7));
        last = event.clientX;
        input.value = valueText(now);
        drag?.([...now]);
      },
      (moved) => {
        if (!moved) input.focus();
        else if (now[part] !== value[part]) keep(now);
      },
    );
  });
}
