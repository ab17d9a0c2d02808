/** Time beyond play and pause: single frames, how fast it runs, how long it is, and the stretch that repeats. */
import { popover } from "moth/base/dialogs.js";
import { byId, h } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */

/**
 * @param {GraphModel} model the graph whose time it is
 * @param {import("../../stage/stage.js").Stage} stage
 */
export function timeControls(model, stage) {
  const { keys } = model;
  const timing = () => model.state.document.timing;
  const go = (/** @type {number} */ frames) => {
    const { length, rate } = timing();
    const count = Math.max(Math.round(length * rate), 1);
    const now = Math.round(stage.time * rate);
    stage.setTime(((((now + frames) % count) + count) % count) / rate);
  };
  byId("step-back").addEventListener("click", () => go(-1));
  byId("step-on").addEventListener("click", () => go(1));
  byId("to-start").addEventListener("click", () => stage.setTime(stage.stretch.from));
  byId("speed").addEventListener("change", () => (stage.speed = Number(byId("speed").value)));
  byId("time").addEventListener("input", () => {
    const time = Number(byId("time").value);
    stage.setTime(keys.snaps ? keys.snapped(time) : time);
  });
  byId("timing").addEventListener("click", () => timingSheet(model, byId("timing")));
  let length = 0;
  model.addEventListener("state", () => {
    const now = timing();
    byId("timing").textContent = `${Number(now.length.toFixed(2))} s · ${now.rate}/s`;
    byId("time").step = String(1 / now.rate);
    byId("time").max = String(now.length);
    if (now.length === length) return;
    // A stretch of the old time is no stretch of the new one.
    length = now.length;
    stage.stretch = { from: 0, to: length };
    if (stage.time > length) stage.setTime(0);
  });
}

/** How long the time of a graph is, and how many frames a second has. @param {GraphModel} model @param {HTMLElement} anchor */
function timingSheet(model, anchor) {
  const { length, rate } = model.state.document.timing;
  /** @param {Partial<{ length: number, rate: number }>} change */
  const keep = (change) => {
    body.closest(".popover")?.remove();
    void model.edit({ op: "set_timing", value: { length, rate, ...change } });
  };
  const field = (/** @type {string} */ label, /** @type {number} */ value, /** @type {(to: number) => void} */ kept) =>
    numbersField({ value: [value], label, step: 1, keep: ([to]) => kept(to) });
  const line = (/** @type {string} */ words, /** @type {HTMLElement} */ input) =>
    h("label", { class: "line" }, h("span", {}, words), input);
  const seconds = field("Length in seconds", length, (to) => keep({ length: to }));
  const body = h(
    "div",
    { class: "key-sheet", role: "dialog", "aria-label": "Length of the time" },
    h("h3", {}, "Time of the graph"),
    line("Length, s", seconds),
    line(
      "Frames a second",
      field("Frames a second", rate, (to) => keep({ rate: to })),
    ),
    h("p", { class: "quiet" }, "After that it begins again."),
  );
  popover(anchor, body);
  seconds.focus();
}
