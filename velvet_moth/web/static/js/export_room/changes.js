/** What has changed in a text since it last left: kept in this browser, by what was chosen. */

/** @typedef {{ text: string, when: string }} Left */

/** @param {string} name */
const keyOf = (name) => `moth.left ${name}`;

/**
 * Keeps a text that leaves.
 * @param {string} name what was chosen
 * @param {string} text
 */
export function remember(name, text) {
  try {
    localStorage.setItem(keyOf(name), JSON.stringify({ text, when: new Date().toISOString() }));
  } catch {
    // A browser that keeps no more says nothing of changes; the text leaves all the same.
  }
}

/**
 * The numbers of the lines that a text did not have when it last left, from 0, how many of its lines are gone, and when that was; null
 * where it never left from this browser.
 * @param {string} name
 * @param {string} text
 * @returns {{ lines: number[], gone: number, when: Date } | null}
 */
export function changes(name, text) {
  /** @type {Left | null} */
  const left = JSON.parse(localStorage.getItem(keyOf(name)) ?? "null");
  if (!left) return null;
  /** @type {Map<string, number>} */
  const had = new Map();
  for (const line of left.text.split("\n")) had.set(line, (had.get(line) ?? 0) + 1);
  const lines = [];
  for (const [at, line] of text.split("\n").entries()) {
    const count = had.get(line) ?? 0;
    if (count) had.set(line, count - 1);
    else lines.push(at);
  }
  const gone = [...had.values()].reduce((sum, count) => sum + count, 0);
  return { lines, gone, when: new Date(left.when) };
}
