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
