/** What the rooms of textures and meshes have in common: a head with a name and a menu, changes in their order, files dropped. */
import { menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/**
 * The head of the panel about one texture or mesh: its name and its menu.
 * @param {string} name
 * @param {() => void} rename
 * @param {() => [string, () => void][]} actions
 */
export const aboutHead = (name, rename, actions) =>
  h(
    "div",
    { class: "about-head" },
    h("h2", {}, h("button", { type: "button", title: "Rename", onclick: rename }, name)),
    h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-haspopup": "menu",
        "aria-label": `Actions for ${name}`,
        onclick: (/** @type {Event} */ event) => menu(/** @type {HTMLElement} */ (event.currentTarget), actions()),
      },
      "⋯",
    ),
  );

/**
 * Changes that are sent one after the other, so that the last one chosen is the one that stays.
 * @template T
 * @param {(answer: T) => Promise<void>} taken
 * @param {(error: unknown) => void} refused
 * @returns {(work: () => Promise<T>) => Promise<void>}
 */
export function inOrder(taken, refused) {
  let last = Promise.resolve();
  return (work) => (last = last.then(work).then(taken).catch(refused));
}

/**
 * A list that is asked for again and again: an answer that comes after a newer one is not taken.
 * @template T
 * @param {() => Promise<T>} ask
 * @param {(answer: T) => void} take
 * @returns {() => Promise<void>}
 */
export function newest(ask, take) {
  let [asked, taken] = [0, 0];
  return async () => {
    const mine = ++asked;
    const answer = await ask();
    if (mine < taken) return;
    taken = mine;
    take(answer);
  };
}

/** Takes files that are dropped anywhere on the page. @param {(files: FileList) => void} take */
export function takeDropped(take) {
  addEventListener("dragover", (event) => event.preventDefault());
  addEventListener("drop", (event) => {
    event.preventDefault();
    if (event.dataTransfer?.files.length) take(event.dataTransfer.files);
  });
}
