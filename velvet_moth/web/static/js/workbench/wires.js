/** Wires: bundles of strands, one for each component, dyed with the mean colour of what they carry. */
import { svg } from "moth/dom.js";

const APART = 2.6;

/** @typedef {[number, number]} Point */

/**
 * A path that leaves to the right and arrives from the left, moved sideways by `shift`.
 * @param {Point} from
 * @param {Point} to
 * @param {number} shift
 */
export function strandPath([x1, y1], [x2, y2], shift) {
  const reach = Math.max(18, Math.min(90, Math.abs(x2 - x1) * 0.45 + Math.abs(y2 - y1) * 0.08));
  const lead = (y2 > y1 ? -shift : shift) * 0.6;
  const [a, b] = [y1 + shift, y2 + shift];
  return `M${x1} ${a} C${x1 + reach + lead} ${a} ${x2 - reach + lead} ${b} ${x2} ${b}`;
}

/**
 * @param {Point} from
 * @param {Point} to
 * @param {{ type: string, strands: number, colour: string, wrong?: boolean, chosen?: boolean, label?: string, note?: string }} look
 * @returns {SVGElement}
 */
export function wire(from, to, { type, strands, colour, wrong, chosen, label, note }) {
  const group = svg("g", { class: `wire ${wrong ? "wrong" : ""} ${chosen ? "chosen" : ""}` });
  if (label) {
    const title = svg("title", {});
    title.textContent = label;
    group.append(title);
  }
  group.append(svg("path", { class: "hit", d: strandPath(from, to, 0) }));
  /** @param {number} shift @param {string} name @param {string} [stroke] */
  const strand = (shift, name, stroke) => {
    const path = svg("path", { class: name, d: strandPath(from, to, shift) });
    if (stroke) path.style.stroke = stroke;
    group.append(path);
  };
  if (wrong) {
    strand(0, "strand dashed");
  } else if (type === "surface") {
    strand(0, "braid-edge");
    strand(0, "braid", colour);
    strand(0, "braid-twist");
  } else if (type === "texture") {
    strand(0, "band-edge");
    strand(0, "band", colour);
  } else {
    for (let i = 0; i < strands; i += 1) {
      const shift = (i - (strands - 1) / 2) * APART;
      strand(shift, "strand-edge");
      strand(shift, "strand", colour);
    }
  }
  if (note) {
    const words = svg("text", { class: "wire-note", x: (from[0] + to[0]) / 2, y: (from[1] + to[1]) / 2 - 5 });
    words.textContent = note;
    group.append(words);
  }
  return group;
}

/** @param {number[] | null | undefined} mean 0..255 */
export const dye = (mean) => (mean ? `rgb(${mean.join(" ")})` : "#6e6472");

/**
 * Points along a wire, close enough to tell what crosses it.
 * @param {Point} from
 * @param {Point} to
 * @returns {Point[]}
 */
export function along(from, to) {
  const numbers = (strandPath(from, to, 0).match(/-?[\d.]+/g) ?? []).map(Number);
  const [x0, y0, x1, y1, x2, y2, x3, y3] = numbers;
  return Array.from({ length: 17 }, (_, i) => {
    const t = i / 16;
    const [a, b, c, d] = [(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t * t, t ** 3];
    return [a * x0 + b * x1 + c * x2 + d * x3, a * y0 + b * y1 + c * y2 + d * y3];
  });
}

/**
 * Whether two lines of points cross.
 * @param {Point[]} first
 * @param {Point[]} second
 */
export function doCross(first, second) {
  for (let i = 1; i < first.length; i += 1) {
    for (let j = 1; j < second.length; j += 1) {
      if (meet(first[i - 1], first[i], second[j - 1], second[j])) return true;
    }
  }
  return false;
}

/**
 * @param {Point} a
 * @param {Point} b
 * @param {Point} c
 * @param {Point} d
 */
function meet(a, b, c, d) {
  /** @type {(p: Point, q: Point, r: Point) => number} */
  const side = (p, q, r) => Math.sign((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]));
  return side(a, b, c) !== side(a, b, d) && side(c, d, a) !== side(c, d, b);
}
