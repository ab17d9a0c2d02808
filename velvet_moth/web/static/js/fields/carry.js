/** Carrying something from a list by the pointer, with words at the pointer for what letting go would do. */
import { follow, h } from "moth/base/dom.js";

/**
 * @typedef {object} Drop what letting go here would do
 * @property {string} words
 * @property {() => void} act
 * @property {HTMLElement | null} [onto] what is marked as taking it
 */

/**
 * @param {PointerEvent} start
 * @param {string} name what is carried
 * @param {(element: Element | null, event: PointerEvent) => Drop | null} over
 */
export function carry(start, name, over) {
  if (start.button !== 0) return;
  const source = /** @type {HTMLElement} */ (start.currentTarget);
  const tag = h("div", { class: "carried", role: "status" });
  /** @type {Drop | null} */
  let drop = null;
  const mark = (/** @type {boolean} */ on) => drop?.onto?.classList.toggle("taking", on);
  follow(
    start,
    (_dx, _dy, event) => {
      mark(false);
      if (!tag.isConnected) document.body.append(tag);
      tag.style.left = `${Math.min(event.clientX + 12, innerWidth - 260)}px`;
      tag.style.top = `${Math.min(event.clientY + 14, innerHeight - 50)}px`;
      drop = over(document.elementFromPoint(event.clientX, event.clientY), event);
      mark(true);
      tag.replaceChildren(
        h("strong", {}, name),
        drop ? h("span", {}, ` ${drop.words}`) : h("span", { class: "quiet" }, " not here"),
      );
    },
    (moved, event) => {
      tag.remove();
      mark(false);
      if (!moved) return;
      // The press that began this was no press on the button it began on.
      const swallow = (/** @type {Event} */ click) => (click.preventDefault(), click.stopPropagation());
      source.addEventListener("click", swallow, { capture: true, once: true });
      setTimeout(() => source.removeEventListener("click", swallow, true));
      if (event.type === "pointerup") drop?.act();
    },
  );
}
