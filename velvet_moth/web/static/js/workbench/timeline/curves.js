/** What a track gives over time, drawn: curves of its numbers, its colours as a band, its texts and toggles as steps. */
import { svg } from "moth/base/dom.js";
import { toHex } from "moth/fields/colour.js";
import { numbersAt, valueAt } from "moth/workbench/model/pieces.js";

/** @typedef {import("../../types.d.ts").Pieces} Pieces */
/** @typedef {import("../../types.d.ts").TrackState} TrackState */
/** @typedef {import("./time_view.js").TimeView} TimeView */
/** @typedef {{ low: number, high: number }} Ends */

/** So many places along a lane a curve is worked out at. */
const PLACES = 240;
/** And a band of colours. */
const COLOURS = 48;
/** So much of the height stays free above and below. */
const MARGIN = 0.14;
const TINTS = ["var(--color-plum)", "var(--color-verdigris)", "var(--color-ochre-deep)", "var(--color-ink-2)"];

/** The colour that a number of a value is drawn in. @param {number} at */
export const tintOf = (at) => TINTS[at % TINTS.length];

/** @param {TimeView} view @param {number} count */
const moments = (view, count) =>
  Array.from({ length: count + 1 }, (_, at) => view.from + ((view.to - view.from) * at) / count);

/**
 * The lowest and highest number that a track gives anywhere near its keys.
 * @param {Pieces} pieces
 * @returns {Ends}
 */
export function endsOf(pieces) {
  const [first, last] = [pieces.times[0], pieces.times[pieces.times.length - 1]];
  const all = Array.from({ length: PLACES + 1 }, (_, at) => numbersAt(pieces, first + ((last - first) * at) / PLACES))
    .concat(pieces.cubics.map((piece) => piece.map(([value]) => value)))
    .flat();
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const pad = high > low ? 0 : Math.max(Math.abs(high), 1) * 0.5;
  return { low: low - pad, high: high + pad };
}

/** How far from the top a number is drawn, as a share of the height. @param {Ends} ends @param {number} value */
export const heightOf = ({ low, high }, value) => MARGIN + (1 - 2 * MARGIN) * (1 - (value - low) / (high - low));

/** The number at a share of the height from the top. @param {Ends} ends @param {number} share */
export const valueAtHeight = ({ low, high }, share) => low + (1 - (share - MARGIN) / (1 - 2 * MARGIN)) * (high - low);

/**
 * The curves of all numbers of a track, as lines of a picture that fills its lane.
 * @param {Pieces} pieces
 * @param {TimeView} view
 * @param {Ends} ends
 * @param {boolean} isOpen whether each has its own colour
 */
export function curves(pieces, view, ends, isOpen) {
  const picture = svg("svg", {
    viewBox: "0 0 1 1",
    preserveAspectRatio: "none",
    class: "curves",
    "aria-hidden": "true",
  });
  const values = moments(view, PLACES).map((time) => numbersAt(pieces, time));
  for (let part = 0; part < values[0].length; part += 1) {
    const points = values.map((value, at) => `${at / PLACES},${heightOf(ends, value[part]).toFixed(5)}`);
    const line = svg("polyline", { points: points.join(" "), fill: "none", "vector-effect": "non-scaling-stroke" });
    line.style.stroke = isOpen ? tintOf(part) : "";
    picture.append(line);
  }
  return picture;
}

/** A band of the colours of a track. @param {Pieces} pieces @param {TimeView} view */
export function colourBand(pieces, view) {
  const colours = moments(view, COLOURS).map((time) => toHex(/** @type {number[]} */ (valueAt(pieces, time))));
  return `linear-gradient(to right, ${colours.join(", ")})`;
}

/**
 * The stretches between the keys of a track in which it gives the same, with what that is in words.
 * @param {TrackState} state
 * @param {(value: import("../../types.d.ts").Value) => string} words
 * @returns {{ from: number, to: number, words: string }[]}
 */
export function steps({ pieces }, words) {
  const { times } = pieces;
  return times.map((from, at) => ({
    from,
    to: times[at + 1] ?? Infinity,
    words: words(valueAt({ ...pieces, before: "hold", after: "hold" }, from)),
  }));
}
