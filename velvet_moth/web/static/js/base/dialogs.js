/** Small questions in a dialog. */
import { h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";

/**
 * A modal dialog; it is removed when closed.
 * @param {string} title
 * @param {...any} children
 * @returns {HTMLDialogElement}
 */
export function sheet(title, ...children) {
  const element = h("dialog", { class: "sheet", "aria-label": title }, h("h2", {}, title), ...children);
  element.addEventListener("close", () => element.remove());
  element.addEventListener("click", (event) => {
    if (event.target === element) element.close();
  });
  document.body.append(element);
  element.showModal();
  return element;
}

/**
 * The buttons that end a form in a dialog.
 * @param {string} action
 * @param {...HTMLElement} others
 */
export function answers(action, ...others) {
  const cancel = h("button", { class: "button", type: "button" }, "Cancel");
  cancel.addEventListener("click", () => cancel.closest("dialog")?.close());
  return h(
    "div",
    { class: "row end" },
    ...others,
    cancel,
    h("button", { class: "button chief", type: "submit" }, action),
  );
}

/**
 * Asks for one line of text.
 * @param {string} title
 * @param {string} value
 * @param {string} [action]
 * @returns {Promise<string | null>}
 */
export function askText(title, value, action = "Rename") {
  return new Promise((resolve) => {
    const input = h("input", { class: "field w-full", value, maxlength: 80, required: true, "aria-label": title });
    const form = h("form", { method: "dialog" }, input, answers(action));
    let answer = /** @type {string | null} */ (null);
    form.addEventListener("submit", () => (answer = input.value.trim()));
    const dialog = sheet(title, form);
    dialog.addEventListener("close", () => resolve(answer || null));
    input.select();
  });
}

/**
 * Shows a panel beside what opened it; a press elsewhere or Escape closes it and gives the keyboard back.
 * @param {HTMLElement} anchor
 * @param {HTMLElement} panel
 */
export function popover(anchor, panel) {
  document.querySelector(".popover")?.remove();
  panel.classList.add("popover");
  const close = () => {
    panel.remove();
    document.removeEventListener("pointerdown", outside, true);
  };
  /** @param {PointerEvent} event */
  const outside = (event) => {
    if (!panel.contains(/** @type {Node} */ (event.target))) close();
  };
  const closeAndGoBack = () => {
    close();
    // The page may have drawn what opened it again.
    const opener = document.querySelector(`[data-focus="${CSS.escape(anchor.dataset.focus ?? "")}"]`) ?? anchor;
    /** @type {HTMLElement} */ (opener).focus();
  };
  panel.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Escape") closeAndGoBack();
  });
  document.body.append(panel);
  opened(() => panel.isConnected, closeAndGoBack);
  const box = anchor.getBoundingClientRect();
  panel.style.left = `${Math.max(8, Math.min(box.left, innerWidth - panel.offsetWidth - 8))}px`;
  panel.style.top = `${Math.max(8, Math.min(box.bottom + 4, innerHeight - panel.offsetHeight - 8))}px`;
  document.addEventListener("pointerdown", outside, true);
}

/**
 * A menu below a button; closes on choice, Escape or a press elsewhere.
 * @param {HTMLElement} anchor
 * @param {[string, () => void, string?][]} entries words, what they do, and the key that does it too
 * @param {{ left: number, top: number, bottom: number }} [box] where it opens, if not below the anchor
 */
export function menu(anchor, entries, box = anchor.getBoundingClientRect()) {
  const close = () => {
    element.remove();
    document.removeEventListener("pointerdown", outside, true);
    anchor.focus({ preventScroll: true });
  };
  /** @param {PointerEvent} event */
  const outside = (event) => {
    if (!element.contains(/** @type {Node} */ (event.target))) close();
  };
  const element = h(
    "div",
    { class: "menu", role: "menu" },
    entries.map(([words, act, key]) =>
      h(
        "button",
        { role: "menuitem", onclick: () => (close(), act()) },
        words,
        key ? h("kbd", { "aria-hidden": "true" }, key) : null,
      ),
    ),
  );
  element.addEventListener("keydown", (event) => {
    const items = [...element.querySelectorAll("button")];
    const at = items.indexOf(/** @type {HTMLButtonElement} */ (document.activeElement));
    if (event.key === "Escape") close();
    else if (event.key === "ArrowDown") items[(at + 1) % items.length].focus();
    else if (event.key === "ArrowUp") items[(at + items.length - 1) % items.length].focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
  document.body.append(element);
  opened(() => element.isConnected, close);
  const right = Math.min(box.left, innerWidth - element.offsetWidth - 8);
  const below = box.bottom + 4 + element.offsetHeight < innerHeight;
  element.style.left = `${Math.max(8, right) + scrollX}px`;
  const top = below ? box.bottom + 4 : box.top - element.offsetHeight - 4;
  // Where it fits neither below nor above, it covers what it belongs to.
  element.style.top = `${Math.max(8, Math.min(top, innerHeight - element.offsetHeight - 8)) + scrollY}px`;
  element.querySelector("button")?.focus();
  document.addEventListener("pointerdown", outside, true);
}
