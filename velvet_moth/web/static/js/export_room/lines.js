/** A text line by line, with its colours, and a button that copies it. */
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";

const KINDS = ["comment", "number", "word"];

/**
 * @param {string} line
 * @param {RegExp} parts whose groups are comments, numbers and words
 */
function coloured(line, parts) {
  /** @type {(Node | string)[]} */
  const made = [];
  let at = 0;
  for (const found of line.matchAll(parts)) {
    made.push(line.slice(at, found.index));
    const kind = KINDS[[1, 2, 3].findIndex((group) => found[group] !== undefined)];
    made.push(h("span", { class: kind }, found[0]));
    at = found.index + found[0].length;
  }
  return [...made, line.slice(at)];
}

/**
 * @param {HTMLElement} place
 * @param {string} text
 * @param {RegExp} parts
 * @returns {number} how many lines there are
 */
export function showLines(place, text, parts) {
  const lines = text.trimEnd().split("\n");
  place.replaceChildren(...lines.map((line) => h("li", {}, ...coloured(line, parts))));
  return lines.length;
}

/**
 * @param {HTMLElement} button
 * @param {() => string} text
 */
export function copies(button, text) {
  button.addEventListener("click", () => {
    navigator.clipboard.writeText(text()).then(() => notice("The text is copied."), tell);
  });
}
