/** The mark beside a value that takes keys: it says whether the value is keyed and whether a key is here, and sets or takes one. */
import { h } from "moth/base/dom.js";
import { secondsText } from "moth/workbench/model/keys.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").Value} Value */

/**
 * @param {GraphModel} model
 * @param {object} of
 * @param {string} of.target
 * @param {string} of.name
 * @param {() => Value} of.value what the key would hold
 * @param {boolean} [of.inSteps]
 * @param {string} of.focus
 */
export function keyMark(model, { target, name, value, inSteps = false, focus }) {
  const mark = h("button", {
    type: "button",
    class: "key-mark",
    data: { target, name, focus },
    onclick: () => {
      const { keys } = model;
      if (keys.keyHere(target)) void keys.remove(target);
      else void keys.set(target, value(), inSteps);
    },
  });
  showMark(model, mark);
  return mark;
}

/** Has a mark say how things stand at the moment. @param {GraphModel} model @param {HTMLElement} mark */
export function showMark({ keys }, mark) {
  const { target = "", name = "" } = mark.dataset;
  const here = keys.keyHere(target);
  const isKeyed = !!keys.stateOf(target);
  const state = here ? "here" : isKeyed ? "keyed" : "";
  const words = here
    ? `Take the key of ${name} at ${secondsText(here.time)} away`
    : `Set a key of ${name} at ${secondsText(keys.moment)}`;
  if (mark.dataset.state === state && mark.title === words) return;
  mark.dataset.state = state;
  mark.title = isKeyed && !here ? `${words}. It is keyed at other times.` : words;
  mark.setAttribute("aria-label", words);
  mark.setAttribute("aria-pressed", String(!!here));
}
