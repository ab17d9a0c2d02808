/** What this browser remembers of how somebody works; nothing here is needed to open a graph. */

const PREFIX = "moth.";

/**
 * @param {string} key
 * @param {any} otherwise
 * @returns {any}
 */
export function kept(key, otherwise) {
  try {
    const text = localStorage.getItem(PREFIX + key);
    return text === null ? otherwise : JSON.parse(text);
  } catch {
    // Storage may be switched off, or hold what another version wrote.
    return otherwise;
  }
}

/**
 * @param {string} key
 * @param {unknown} value
 */
export function keep(key, value) {
  try {
    localStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {
    // Without storage it is forgotten with the page.
  }
}
