/** What is open over a page, the last opened on top: Escape closes that one, wherever the keyboard is. */

/** @type {{ isOpen: () => boolean, close: () => void }[]} */
const layers = [];

/**
 * Something was opened over all else.
 * @param {() => boolean} isOpen whether it still is: it may be closed in other ways too
 * @param {() => void} close
 */
export function opened(isOpen, close) {
  layers.push({ isOpen, close });
}

/** Closes what is on top; says whether there was something. */
export function closeTop() {
  for (let top = layers.pop(); top; top = layers.pop()) {
    if (!top.isOpen()) continue;
    top.close();
    return true;
  }
  return false;
}

document.addEventListener("keydown", (event) => {
  // A modal dialog is above all of them, and is closed by the browser.
  if (event.key !== "Escape" || event.defaultPrevented || document.querySelector("dialog[open]")) return;
  if (closeTop()) event.preventDefault();
});
