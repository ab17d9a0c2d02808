/** The keyboard on the timeline: from key to key, and what moves or changes them. */
import { isTyping } from "moth/base/dom.js";
import { actOf, move } from "moth/workbench/timeline/key_acts.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */

/** With Shift a key moves so many frames. */
const MANY = 10;
/** Of what a curve spans, so much up or down is a press. */
const LIFT = 0.02;
const ZOOM = 1.4;

/** What keys do wherever the keyboard is on the timeline. @type {Record<string, (panel: TracksPanel) => void>} */
const ANYWHERE = {
  ",": (panel) => panel.jump(-1),
  ".": (panel) => panel.jump(1),
  "[": (panel) => panel.setStretch(panel.model.keys.moment, panel.stretch?.to ?? panel.view.length),
  "]": (panel) => panel.setStretch(panel.stretch?.from ?? 0, panel.model.keys.moment),
  "\\": (panel) => panel.setStretch(0, 0),
  "+": (panel) => panel.view.zoom(1 / ZOOM, panel.model.keys.time),
  "=": (panel) => panel.view.zoom(1 / ZOOM, panel.model.keys.time),
  "-": (panel) => panel.view.zoom(ZOOM, panel.model.keys.time),
  0: (panel) => panel.view.show(0, panel.view.length),
  k: (panel) => panel.body.querySelector(`.track-head[data-target="${CSS.escape(panel.row)}"] .key-mark`)?.click(),
};

/** @param {TracksPanel} panel @param {KeyboardEvent} event */
export function pressOnTimeline(panel, event) {
  if (isTyping(event)) return;
  const target = /** @type {HTMLElement} */ (event.target);
  const mark = /** @type {HTMLElement | null} */ (target.closest(".key"));
  if (!press(panel, event, mark)) return;
  event.preventDefault();
  event.stopPropagation();
}

/**
 * @param {TracksPanel} panel
 * @param {KeyboardEvent} event
 * @param {HTMLElement | null} mark the key that has the keyboard
 * @returns {boolean} whether the press was for the timeline
 */
function press(panel, event, mark) {
  const { chosen } = panel;
  const isCommand = event.ctrlKey || event.metaKey;
  if (isCommand && event.key.toLowerCase() === "a") {
    chosen.all(event.shiftKey ? "" : panel.row);
    return true;
  }
  const act = actOf(event);
  if (act) {
    if (!chosen.count && act.name !== "Paste at the moment") return false;
    void act.run(panel);
    return true;
  }
  if (event.key === "Escape" && chosen.count) {
    chosen.clear();
    return true;
  }
  if (mark && event.key.startsWith("Arrow")) return arrow(panel, event, mark);
  if (mark && event.key === "Enter") {
    panel.typeKey(mark.dataset.target ?? "", Number(mark.dataset.time), mark);
    return true;
  }
  if (mark && event.key === " ") {
    chosen.pick(mark.dataset.target ?? "", Number(mark.dataset.time), true);
    return true;
  }
  if (isCommand || event.altKey) return false;
  const anywhere = ANYWHERE[event.key.toLowerCase()];
  anywhere?.(panel);
  return !!anywhere;
}

/** @param {TracksPanel} panel @param {KeyboardEvent} event @param {HTMLElement} mark */
function arrow(panel, event, mark) {
  const { target = "", part = "-1" } = mark.dataset;
  const time = Number(mark.dataset.time);
  const way = event.key === "ArrowRight" || event.key === "ArrowUp" ? 1 : -1;
  const isAlong = event.key === "ArrowLeft" || event.key === "ArrowRight";
  if (event.altKey) {
    if (!panel.chosen.has(target, time)) panel.chosen.pick(target, time, false);
    if (isAlong) void nudge(panel, way * (event.shiftKey ? MANY : 1), target, time);
    else lift(panel, target, time, Number(part), way);
    return true;
  }
  const next = isAlong ? beside(panel, target, time, way) : across(panel, target, time, -way);
  if (!next) return true;
  const found = panel.body.querySelector(`.key[data-target="${CSS.escape(next.target)}"][data-time="${next.time}"]`);
  found?.focus();
  if (event.shiftKey)
    panel.chosen.set(
      [
        { target, times: [time] },
        { target: next.target, times: [next.time] },
      ],
      true,
    );
  else panel.chosen.pick(next.target, next.time, false);
  focusKey(panel, next.target, next.time);
  return true;
}

/** Gives a key the keyboard. @param {TracksPanel} panel @param {string} target @param {number} time */
function focusKey(panel, target, time) {
  panel.body.querySelector(`.key[data-target="${CSS.escape(target)}"][data-time="${time}"]`)?.focus();
}

/** @param {TracksPanel} panel @param {number} frames @param {string} target @param {number} time */
async function nudge(panel, frames, target, time) {
  const { keys, state } = panel.model;
  const at = panel.trackOf(target).keys.findIndex((key) => key.time === time);
  await move(panel, frames / state.document.timing.rate);
  const moved = panel.chosen.list.find((one) => one.target === target)?.times ?? [];
  // It is still the one that was moved, unless it passed others.
  const near =
    [...moved].sort((a, b) => Math.abs(a - time) - Math.abs(b - time))[0] ?? keys.trackOf(target)?.keys[at]?.time;
  if (near !== undefined) focusKey(panel, target, near);
}

/** @param {TracksPanel} panel @param {string} target @param {number} time @param {number} part @param {number} way */
function lift(panel, target, time, part, way) {
  const key = panel.trackOf(target).keys.find((one) => one.time === time);
  const state = panel.model.keys.stateOf(target);
  if (!key || !state || typeof key.value === "string" || state.in_steps || state.pieces.stop) return;
  const parameter = panel.model.state.document.parameters.find(({ id }) => id === target);
  const span = parameter ? parameter.high - parameter.low : Math.max(...key.value.map(Math.abs), 1);
  const value = key.value.map((number, at) =>
    part < 0 || at === part ? Number((number + way * span * LIFT).toPrecision(6)) : number,
  );
  void panel.put(target, key, { ...key, value }).then(() => focusKey(panel, target, time));
}

/** The key before or after in the same row. @param {TracksPanel} panel @param {string} target @param {number} time @param {number} way */
function beside(panel, target, time, way) {
  const times = panel.trackOf(target).keys.map((key) => key.time);
  const next = times[times.indexOf(time) + way];
  return next === undefined ? null : { target, time: next };
}

/** The nearest key of the row above or below. @param {TracksPanel} panel @param {string} target @param {number} time @param {number} way */
function across(panel, target, time, way) {
  const rows = panel.targets;
  const other = rows[rows.indexOf(target) + way];
  if (!other) return null;
  const times = panel.trackOf(other).keys.map((key) => key.time);
  return { target: other, time: times.sort((a, b) => Math.abs(a - time) - Math.abs(b - time))[0] };
}
