/** Sliders of a parameter: one for each of its numbers, and a mark that moves all of them together. */
import { h } from "moth/base/dom.js";

const LETTERS = ["X", "Y", "Z", "W"];

/**
 * @param {object} options
 * @param {string} options.name
 * @param {string} options.key what the keyboard finds the first slider by
 * @param {number[]} options.value
 * @param {number} options.low
 * @param {number} options.high
 * @param {number} options.step
 * @param {boolean} options.isLinked whether all of them move together
 * @param {(isLinked: boolean) => void} options.link
 * @param {(value: number[]) => void} options.drag
 * @param {(value: number[]) => void} options.keep
 * @returns {HTMLElement}
 */
export function componentSliders({ name, key, value, low, high, step, isLinked, link, drag, keep }) {
  const now = [...value];
  let linked = isLinked;
  const several = value.length > 1;
  const ranges = value.map((number, at) =>
    h("input", {
      type: "range",
      min: Math.min(low, ...value),
      max: Math.max(high, ...value),
      step,
      value: String(number),
      "aria-label": several ? `${name} ${LETTERS[at]}` : name,
      data: { focus: at ? `${key}.${at}` : key },
    }),
  );
  const fill = () =>
    ranges.forEach((range) => {
      const share = (Number(range.value) - Number(range.min)) / (Number(range.max) - Number(range.min));
      range.style.setProperty("--share", `${share * 100}%`);
    });
  ranges.forEach((range, at) => {
    range.addEventListener("input", () => {
      const set = Number(range.value);
      for (let i = 0; i < now.length; i += 1) if (linked || i === at) now[i] = set;
      if (linked) for (const other of ranges) other.value = range.value;
      fill();
      drag([...now]);
    });
    range.addEventListener("change", () => keep([...now]));
  });
  fill();
  if (!several) return ranges[0];
  const mark = h(
    "button",
    {
      type: "button",
      class: "link-mark",
      "aria-pressed": String(linked),
      "aria-label": `Move all numbers of ${name} together`,
      title: "Move all together",
      data: { focus: `${key}.link` },
    },
    "=",
  );
  mark.addEventListener("click", () => {
    linked = !linked;
    mark.setAttribute("aria-pressed", String(linked));
    link(linked);
  });
  return h("span", { class: "component-sliders" }, h("span", { class: "stack" }, ranges), mark);
}
