/** Whether two pieces of plain data say the same. */

/**
 * @param {unknown} a
 * @param {unknown} b
 */
export const same = (a, b) => canonical(a) === canonical(b);

/**
 * Text of plain data whatever the order of its fields; fields at their empty default do not count.
 * @param {any} data
 * @returns {string}
 */
function canonical(data) {
  if (Array.isArray(data)) return `[${data.map(canonical)}]`;
  if (data === null || typeof data !== "object") return JSON.stringify(data);
  const kept = Object.keys(data).filter((key) => !isBlank(data[key]));
  return `{${kept.sort().map((key) => `${key}:${canonical(data[key])}`)}}`;
}

/** @param {any} value */
const isBlank = (value) =>
  value === null ||
  value === undefined ||
  value === "" ||
  (typeof value === "object" && Object.keys(value).length === 0);
