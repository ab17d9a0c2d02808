/** Building and finding elements. */

/** @typedef {Node | string | null | undefined | false} Child */

/**
 * An element with properties, listeners (`on…`), `class`, `data…` and `aria-…`, and children.
 * @template {keyof HTMLElementTagNameMap} T
 * @param {T} tag
 * @param {Record<string, any>} [properties]
 * @param {...(Child | Child[])} children
 * @returns {HTMLElementTagNameMap[T]}
 */
export function h(tag, properties = {}, ...children) {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(properties)) {
    if (value === undefined || value === null || value === false) continue;
    if (name.startsWith("on")) element.addEventListener(name.slice(2), value);
    else if (name === "class") element.className = value;
    else if (name === "data") Object.assign(element.dataset, value);
    else if (name === "value" || name === "checked") {
      // The default tells later whether a person has typed something since.
      if (name === "value" && element instanceof HTMLInputElement) element.defaultValue = value;
      /** @type {any} */ (element)[name] = value;
    } else element.setAttribute(name, value === true ? "" : String(value));
  }
  element.append(.../** @type {(Node | string)[]} */ (children.flat().filter((c) => c || c === "")));
  return element;
}

/**
 * @param {string} id
 * @returns {any} the element, which the page's own template holds
 */
export function byId(id) {
  const found = document.getElementById(id);
  if (!found) throw new Error(`the page has no #${id}`);
  return found;
}

const SVG = "http://www.w3.org/2000/svg";

/**
 * @param {string} tag
 * @param {Record<string, string | number>} attributes
 * @returns {SVGElement}
 */
export function svg(tag, attributes) {
  const element = /** @type {SVGElement} */ (document.createElementNS(SVG, tag));
  for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, String(value));
  return element;
}

/**
 * Whether a text field holds something typed that is not kept yet, so that undo is its own.
 * @param {Event} event
 */
export const isHalfTyped = (event) =>
  event.target instanceof HTMLElement &&
  (event.target.closest("dialog") !== null ||
    (event.target instanceof HTMLInputElement &&
      event.target.type === "text" &&
      event.target.value !== event.target.defaultValue));

/**
 * Whether a key press belongs to a text being edited, not to the page.
 * @param {Event} event
 */
export const isTyping = (event) =>
  event.target instanceof HTMLElement && event.target.matches("input:not([type=range]), textarea, select, dialog *");

/**
 * The vertical offset of an element within an ancestor, untouched by zoom.
 * @param {HTMLElement} element
 * @param {string} ancestor
 */
export function offsetWithin(element, ancestor) {
  let y = 0;
  for (let at = /** @type {HTMLElement | null} */ (element); at && !at.matches(ancestor);) {
    y += at.offsetTop;
    at = /** @type {HTMLElement | null} */ (at.offsetParent);
  }
  return y;
}

/** A press that moves no farther than this, in pixels, is no drag. */
const DRAG = 4;

/**
 * Follows the pointer from a press until it is let go.
 * @param {PointerEvent} start
 * @param {(dx: number, dy: number, event: PointerEvent) => void} move
 * @param {(moved: boolean, event: PointerEvent) => void} [done]
 */
export function follow(start, move, done) {
  let moved = false;
  /** @param {PointerEvent} event */
  const onMove = (event) => {
    const [dx, dy] = [event.clientX - start.clientX, event.clientY - start.clientY];
    moved ||= Math.hypot(dx, dy) > DRAG;
    if (moved) move(dx, dy, event);
  };
  /** @param {PointerEvent} event */
  const onEnd = (event) => {
    removeEventListener("pointermove", onMove);
    removeEventListener("pointerup", onEnd);
    removeEventListener("pointercancel", onEnd);
    done?.(moved, event);
  };
  addEventListener("pointermove", onMove);
  addEventListener("pointerup", onEnd);
  addEventListener("pointercancel", onEnd);
}
