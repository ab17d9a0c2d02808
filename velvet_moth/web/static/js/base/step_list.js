/** The steps of a document's history as a list, the newest first; a press goes to one of them. */
import { h } from "moth/base/dom.js";

/** @typedef {import("../types.d.ts").Step} Step */

/** More steps than this are listed only when asked for. */
const MANY = 150;

/** @param {string} made */
export const when = (made) => {
  const date = new Date(made);
  const isToday = date.toDateString() === new Date().toDateString();
  return isToday
    ? date.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })
    : date.toLocaleDateString([], { day: "numeric", month: "short" });
};

export class StepList {
  /**
   * @param {string} here said of the step that holds
   * @param {(number: number) => void} go to a step; 0 is before all of them
   */
  constructor(here, go) {
    this.here = here;
    this.go = go;
    this.showsAll = false;
    /** @type {Step[]} */
    this.steps = [];
    this.list = h("ol", { class: "step-list", "aria-label": "Steps, the newest first" });
  }

  /** Puts the keyboard on the step that holds. */
  focus() {
    /** @type {HTMLElement | null} */ (this.list.querySelector("[aria-current]"))?.focus();
  }

  /** @param {Step[]} steps the first first */
  show(steps) {
    this.steps = steps;
    const hadFocus = this.list.contains(document.activeElement);
    const newest = [...steps].reverse();
    const at = newest.find((step) => step.done)?.number ?? 0;
    const listed = this.showsAll ? newest : newest.slice(0, MANY);
    this.list.replaceChildren(
      ...listed.map((step) => this.#row(step, step.number === at)),
      newest.length > listed.length
        ? h(
            "li",
            {},
            h(
              "button",
              { type: "button", class: "button small", onclick: () => this.#showAll() },
              `Show all ${newest.length}`,
            ),
          )
        : this.#row(
            { number: 0, words: steps.length ? "where it began" : "nothing done yet", made: "", done: true },
            at === 0,
          ),
    );
    if (hadFocus) this.focus();
  }

  #showAll() {
    this.showsAll = true;
    this.show(this.steps);
  }

  /**
   * @param {Step} step
   * @param {boolean} isCurrent
   */
  #row({ number, words, made, done }, isCurrent) {
    return h(
      "li",
      {},
      h(
        "button",
        {
          type: "button",
          class: `step ${done ? "" : "undone"}`,
          "aria-current": isCurrent ? "step" : undefined,
          title: isCurrent ? this.here : done ? "Go back to here" : "Undone: go forward to here",
          data: { step: number },
          onclick: () => isCurrent || this.go(number),
        },
        h("span", {}, words),
        h("span", { class: "mono quiet" }, made ? when(made) : ""),
      ),
    );
  }
}
