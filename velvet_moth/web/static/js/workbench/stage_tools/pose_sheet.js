/** How large the form is and how it is turned: a texture laid by world must hold on a wall three times as wide. */
import { popover } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";

/** @typedef {import("../../types.d.ts").Pose} Pose */

/** @type {Pose} */
const AS_MADE = { size: [1, 1, 1], turn: 0 };

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {import("../../stage/stage.js").Stage} stage
 * @param {HTMLElement} anchor
 */
export function poseSheet(model, stage, anchor) {
  const now = () => model.state.document.pose;
  /** @param {Pose} pose */
  const keep = async (pose) => {
    // What is refused is taken back on the stage too.
    if (!(await model.edit({ op: "set_pose", value: pose }))) stage.setPose(now());
    draw();
  };
  /** @param {string} words @param {HTMLElement} field */
  const line = (words, field) => h("label", { class: "line" }, h("span", {}, words), field);
  const body = h("div", {});
  const draw = () => {
    const pose = now();
    /** @param {number[]} size @returns {Pose} */
    const sized = ([x, y, z]) => ({ ...pose, size: [x, y, z] });
    const size = numbersField({
      value: pose.size,
      label: "Size along X, Y and Z",
      step: 0.01,
      drag: (value) => stage.setPose(sized(value)),
      keep: (value) => void keep(sized(value)),
    });
    const turn = numbersField({
      value: [pose.turn],
      label: "Turn in degrees",
      step: 1,
      drag: ([value]) => stage.setPose({ ...pose, turn: value }),
      keep: ([value]) => void keep({ ...pose, turn: value }),
    });
    const reset = h(
      "button",
      { type: "button", class: "button small", onclick: () => void keep(AS_MADE) },
      "As it is made",
    );
    body.replaceChildren(
      line("Size (X Y Z)", size),
      line("Turn (degrees)", turn),
      h("p", { class: "quiet" }, "1 is the form as it is made. What is laid by world keeps its measure."),
      reset,
    );
  };
  draw();
  const panel = h("div", { class: "pose-sheet", role: "dialog", "aria-label": "Size and turn of the form" }, body);
  popover(anchor, panel);
  body.querySelector("input")?.focus();
}
