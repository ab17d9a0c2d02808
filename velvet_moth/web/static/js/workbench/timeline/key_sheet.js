/** One key as it is typed: its time, its value, and how it goes on. */
import { popover } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */
/** @typedef {import("../../types.d.ts").Key} Key */

/** Of so many numbers a value is typed in one field; longer ones have one field each. */
const IN_ONE = 3;

/**
 * @param {TracksPanel} panel
 * @param {string} target
 * @param {number} time
 * @param {HTMLElement} anchor
 */
export function keySheet(panel, target, time, anchor) {
  const { model } = panel;
  const state = model.keys.stateOf(target);
  const key = panel.trackOf(target).keys.find((one) => one.time === time);
  if (!state || !key) return;
  const line = (/** @type {string} */ words, /** @type {HTMLElement} */ field) =>
    h("label", { class: "line" }, h("span", {}, words), field);
  /** @param {Partial<Key>} change */
  const keep = (change) => {
    body.closest(".popover")?.remove();
    void panel.put(target, key, { ...key, ...change });
  };
  const at = numbersField({
    value: [key.time],
    label: "Time in seconds",
    keep: ([to]) => keep({ time: Math.max(to, 0) }),
  });
  const way = h(
    "select",
    { class: "field", "aria-label": "Goes on", disabled: state.in_steps },
    Object.entries(model.settings.ways).map(([value, { name, words }]) => h("option", { value, title: words }, name)),
  );
  way.value = key.way;
  way.addEventListener("change", () => {
    body.closest(".popover")?.remove();
    void panel.ease([{ target, times: [time] }], way.value);
  });
  const body = h("div", { class: "key-sheet", role: "dialog", "aria-label": `Key of ${state.name}` });
  body.append(
    h("h3", {}, state.name),
    line("Time, s", at),
    ...valueLines(state, key, line, (value) => keep({ value })),
    line("Goes on", way),
    h(
      "button",
      { type: "button", class: "button small", onclick: () => (body.closest(".popover")?.remove(), panel.pass(time)) },
      "Show this moment",
    ),
  );
  popover(anchor, body);
  at.focus();
}

/**
 * @param {import("../../types.d.ts").TrackState} state
 * @param {Key} key
 * @param {(words: string, field: HTMLElement) => HTMLElement} line
 * @param {(value: number[]) => void} keep
 */
function valueLines(state, { value }, line, keep) {
  if (typeof value === "string" || state.in_steps || state.pieces.stop)
    return [h("p", { class: "quiet" }, "Its value is changed where it is set, at this moment.")];
  if (state.is_colour)
    return [line("Colour", colourField({ value, label: "Colour", key: "key.colour", drag: () => {}, keep }))];
  if (value.length <= IN_ONE) return [line("Value", numbersField({ value, label: "Value", keep }))];
  return value.map((number, at) =>
    line(
      state.parts[at] ?? String(at + 1),
      numbersField({
        value: [number],
        label: state.parts[at] ?? String(at + 1),
        keep: ([to]) => keep(value.map((one, i) => (i === at ? to : one))),
      }),
    ),
  );
}
