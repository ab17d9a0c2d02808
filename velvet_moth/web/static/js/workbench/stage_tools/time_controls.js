/** Time beyond play and pause: single steps, how fast it runs, and after how long it begins again. */
import { byId } from "moth/base/dom.js";

const STEP = 1 / 30;

/** @param {import("../../stage/stage.js").Stage} stage */
export function timeControls(stage) {
  const go = (/** @type {number} */ by) => {
    stage.setTime((stage.time + by + stage.loop) % stage.loop);
  };
  byId("step-back").addEventListener("click", () => go(-STEP));
  byId("step-on").addEventListener("click", () => go(STEP));
  byId("to-start").addEventListener("click", () => stage.setTime(0));
  byId("speed").addEventListener("change", () => (stage.speed = Number(byId("speed").value)));
  byId("loop").addEventListener("change", () => {
    stage.loop = Number(byId("loop").value);
    byId("time").max = String(stage.loop);
    if (stage.time > stage.loop) stage.setTime(stage.time % stage.loop);
  });
}
