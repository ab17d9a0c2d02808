/** Sentences to the person at the page: what happened, and what can be done about it. */
import { byId, h } from "moth/base/dom.js";

const STAY = 7000;

/**
 * @param {string} words
 * @param {{ mend?: string, wrong?: boolean, action?: string, act?: () => void, stay?: boolean }} [options]
 * @returns {() => void} takes the notice away
 */
export function notice(words, options = {}) {
  const close = () => element.remove();
  const element = h(
    "div",
    { class: `notice ${options.wrong ? "wrong" : ""}` },
    h("p", {}, words, options.mend ? h("span", { class: "mend" }, ` ${options.mend}`) : null),
    options.action
      ? h("button", { class: "button small", onclick: () => (close(), options.act?.()) }, options.action)
      : null,
    h("button", { class: "button small", "aria-label": "Dismiss", onclick: close }, "×"),
  );
  const all = byId("notices");
  all.append(element);
  // Shown last, it lies above every dialog that is open.
  if (all.matches(":popover-open")) all.hidePopover();
  all.showPopover();
  if (!options.stay) setTimeout(close, options.wrong ? STAY * 2 : STAY);
  return close;
}

/**
 * @param {unknown} error
 */
export function tell(error) {
  const { message, mend } = /** @type {any} */ (error);
  notice(message || String(error), { mend, wrong: true });
}
