/** A value over time from the polynomial pieces that the core makes of its keys: the same arithmetic as the core's. */

/** @typedef {import("../../types.d.ts").Pieces} Pieces */
/** @typedef {import("../../types.d.ts").Value} Value */

/**
 * The time between the first and the last key that has the same value.
 * @param {Pieces} pieces
 * @param {number} time
 */
function inside({ times, before, after }, time) {
  const first = times[0];
  const last = times[times.length - 1];
  const span = last - first;
  if (first <= time && time <= last && !(time === last && after === "again")) return time;
  const outside = time < first ? before : after;
  if (outside === "hold" || span === 0) return Math.min(Math.max(time, first), last);
  const passed = time - first;
  if (outside === "again") return first + (passed - span * Math.floor(passed / span));
  const there = passed - 2 * span * Math.floor(passed / (2 * span));
  return first + Math.min(there, 2 * span - there);
}

/**
 * Linear light of a hue (turns), saturation and value.
 * @param {number[]} colour
 */
function lightOf([hue, saturation, value]) {
  const kept = Math.min(Math.max(saturation, 0), 1);
  const high = Math.max(value, 0);
  return [5, 3, 1].map((offset) => {
    const sector = offset + 6 * (hue - Math.floor(hue));
    const k = sector - 6 * Math.floor(sector / 6);
    return high - high * kept * Math.max(0, Math.min(k, 4 - k, 1));
  });
}

/** Stops whose places are between 0 and 1 and never go back. @param {number[]} numbers @param {number} stop */
function inOrder(numbers, stop) {
  let least = 0;
  for (let at = 0; at < numbers.length; at += stop) {
    least = Math.min(Math.max(numbers[at], least), 1);
    numbers[at] = least;
  }
  return numbers;
}

/** What the numbers of pieces become. @type {Record<Pieces["reading"], (numbers: number[], stop: number) => number[]>} */
const READINGS = {
  plain: (numbers) => numbers,
  light: (numbers) => numbers.map((number) => Math.max(number, 0)),
  hue: lightOf,
  stops: inOrder,
};

/** The piece that holds at a time inside. @param {number[]} times @param {number} time */
function pieceAt(times, time) {
  let [low, high] = [0, times.length];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (times[middle] <= time) low = middle;
    else high = middle;
  }
  return low;
}

/**
 * The numbers of the pieces themselves, before they are read as a value; none of a text.
 * @param {Pieces} pieces
 * @param {number} time
 */
export function numbersAt(pieces, time) {
  const at = inside(pieces, time);
  const piece = pieceAt(pieces.times, at);
  const x = at - pieces.times[piece];
  return (pieces.cubics[piece] ?? []).map(([a, b, c, d]) => a + x * (b + x * (c + x * d)));
}

/**
 * The value at a time, in seconds.
 * @param {Pieces} pieces
 * @param {number} time
 * @returns {Value}
 */
export function valueAt(pieces, time) {
  if (pieces.texts.length) return pieces.texts[pieceAt(pieces.times, inside(pieces, time))];
  return READINGS[pieces.reading](numbersAt(pieces, time), pieces.stop);
}
