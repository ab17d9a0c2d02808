/** Wires: bundles of strands, one for each component, dyed with the mean colour of what they carry. */
import { svg } from "moth/base/dom.js";
import { CARD_WIDTH } from "moth/workbench/graph/places/layout.js";

const APART = 2.6;

/** @typedef {[number, number]} Point */

/** @typedef {[Point, Point, Point, Point]} Cubic */

/**
 * From one place to another, leaving to the right and arriving from the left.
 * @param {Point} from
 * @param {Point} to
 * @param {number} lead how much sooner it turns, so that strands beside each other stay apart
 * @returns {Cubic}
 */
function bend([x1, y1], [x2, y2], lead) {
  const reach = Math.max(18, Math.min(90, Math.abs(x2 - x1) * 0.45 + Math.abs(y2 - y1) * 0.08));
  return [
    [x1, y1],
    [x1 + reach + lead, y1],
    [x2 - reach + lead, y2],
    [x2, y2],
  ];
}

/**
 * The pieces of a strand, moved sideways by `shift`. Columns on the way are crossed level.
 * @param {Point} from
 * @param {Point} to
 * @param {number} shift
 * @param {Point[]} route the middles of the columns that are crossed
 * @returns {Cubic[]}
 */
function pieces(from, to, shift, route) {
  /** @type {Cubic[]} */
  const found = [];
  /** @type {Point} */
  let at = [from[0], from[1] + shift];
  /** @param {Point} goal */
  const bendTo = (goal) => {
    found.push(bend(at, goal, (goal[1] > at[1] ? -shift : shift) * 0.6));
    at = goal;
  };
  for (const [x, y] of route) {
    bendTo([x - CARD_WIDTH / 2, y + shift]);
    /** @type {Point} */
    const end = [x + CARD_WIDTH / 2, y + shift];
    found.push([at, at, end, end]);
    at = end;
  }
  bendTo([to[0], to[1] + shift]);
  return found;
}

/**
 * @param {Point} from
 * @param {Point} to
 * @param {number} shift
 * @param {Point[]} [route]
 */
export const strandPath = (from, to, shift, route = []) =>
  `M${from[0]} ${from[1] + shift}` +
  pieces(from, to, shift, route)
    .map(([, b, c, d]) => ` C${b.join(" ")} ${c.join(" ")} ${d.join(" ")}`)
    .join("");

/**
 * @param {Point} from
 * @param {Point} to
 * @param {{ type: string, strands: number, mean: number[] | null | undefined, wrong?: boolean, chosen?: boolean, label?: string, note?: string, route?: Point[] }} look
 * @returns {SVGElement}
 */
export function wire(from, to, { type, strands, mean, wrong, chosen, label, note, route = [] }) {
  const colour = mean ? `rgb(${mean.join(" ")})` : UNKNOWN;
  const group = svg("g", {
    class: `wire ${wrong ? "wrong" : ""} ${chosen ? "chosen" : ""} ${isPale(mean) ? "pale" : ""}`,
  });
  if (label) {
    const title = svg("title", {});
    title.textContent = label;
    group.append(title);
  }
  group.append(svg("path", { class: "hit", d: strandPath(from, to, 0, route) }));
  /** @param {number} shift @param {string} name @param {string} [stroke] */
  const strand = (shift, name, stroke) => {
    const path = svg("path", { class: name, d: strandPath(from, to, shift, route) });
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
    const points = along(from, to, route);
    const [x, y] = points[Math.floor(points.length / 2)];
    const words = svg("text", { class: "wire-note", x, y: y - 5 });
    words.textContent = note;
    group.append(words);
  }
  return group;
}

/** The colour of a wire of which nothing is known yet. */
const UNKNOWN = "#6e6472";
/** From this brightness on, of 255, a strand has too little contrast with the ground. */
const PALE = 150;

/** @param {number[] | null | undefined} mean 0..255 in sRGB; weighed as Rec. 709 luma */
const isPale = (mean) => !!mean && 0.2126 * mean[0] + 0.7152 * mean[1] + 0.0722 * mean[2] > PALE;

/**
 * Points along a wire, close enough to tell what crosses it.
 * @param {Point} from
 * @param {Point} to
 * @param {Point[]} [route]
 * @returns {Point[]}
 */
export function along(from, to, route = []) {
  return pieces(from, to, 0, route).flatMap(([a, b, c, d]) =>
    Array.from({ length: 17 }, (_, i) => {
      const t = i / 16;
      const [p, q, r, s] = [(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t * t, t ** 3];
      return /** @type {Point} */ ([0, 1].map((k) => p * a[k] + q * b[k] + r * c[k] + s * d[k]));
    }),
  );
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

/** The wire that is seen at a place of the page. @param {{ clientX: number, clientY: number }} at */
export function wireUnder({ clientX, clientY }) {
  for (const element of document.elementsFromPoint(clientX, clientY)) {
    const wire = /** @type {SVGElement | null} */ (element.closest(".wire:not(.preview)"));
    if (wire?.dataset.end) return wire;
  }
  return null;
}
