/** Names of cards seen from far: as large as text must be, and only as many as have room. */
import { CARD_WIDTH } from "moth/workbench/layout.js";

/** @typedef {import("./graph_pane.js").GraphPane} GraphPane */
/** @typedef {{ left: number, top: number, right: number, bottom: number }} Box */

/** The size of a name on the screen, in pixels. */
const SIZE = 10.5;
const HEIGHT = 14;
/** Names are set anew when the view has come so much nearer or farther, not at every step. */
const STEP = 1.12;

export class FarNames {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    this.level = 0;
    this.text = /** @type {CanvasRenderingContext2D} */ (document.createElement("canvas").getContext("2d"));
    /** @type {Map<string, number>} */
    this.widths = new Map();
    pane.view.addEventListener("view", () => this.#zoomed());
    pane.pane.addEventListener("shown", () => this.show());
    pane.pane.addEventListener("selection", () => this.show());
  }

  #zoomed() {
    const { view } = this.pane;
    const level = Math.round(Math.log(Math.min(view.zoom, 1)) / Math.log(STEP));
    if (level === this.level) return;
    this.level = level;
    view.world.style.setProperty("--name-size", `${SIZE / STEP ** level}px`);
    this.show();
  }

  /** @param {string} name */
  #width(name) {
    let width = this.widths.get(name);
    if (width === undefined) {
      this.text.font = `600 ${SIZE}px ${getComputedStyle(this.pane.pane).fontFamily}`;
      width = this.text.measureText(name).width + 6;
      this.widths.set(name, width);
    }
    return width;
  }

  /** Gives names to the cards that tell most, as far as there is room. */
  show() {
    if (!this.pane.view.isFar) return;
    const { model, cards, places, selection } = this.pane;
    /** @type {Map<string, number>} */
    const weight = new Map();
    for (const { wires } of model.nodes.values()) {
      for (const [source] of Object.values(wires ?? {})) weight.set(source, (weight.get(source) ?? 0) + 1);
    }
    for (const [id, node] of model.nodes) {
      const named = (node.label ? 20 : 0) + (model.parametersOf(id).length ? 10 : 0) + (selection.has(id) ? 1000 : 0);
      weight.set(id, (weight.get(id) ?? 0) + named);
    }
    const zoom = STEP ** this.level;
    /** What is taken, by rows of the screen. @type {Map<number, [number, number][]>} */
    const rows = new Map();
    const isFree = (/** @type {Box} */ box) => {
      for (let row = Math.floor(box.top / HEIGHT); row <= Math.floor(box.bottom / HEIGHT); row += 1) {
        for (const [left, right] of rows.get(row) ?? []) if (left < box.right && right > box.left) return false;
      }
      return true;
    };
    const take = (/** @type {Box} */ box) => {
      for (let row = Math.floor(box.top / HEIGHT); row <= Math.floor(box.bottom / HEIGHT); row += 1) {
        rows.set(row, [...(rows.get(row) ?? []), [box.left, box.right]]);
      }
    };
    const heavy = [...cards.keys()].sort((a, b) => (weight.get(b) ?? 0) - (weight.get(a) ?? 0));
    for (const id of heavy) {
      const [x, y] = places.get(id) ?? [0, 0];
      const width = Math.max(CARD_WIDTH * zoom, this.#width(model.nameOf(id)));
      const box = { left: x * zoom, top: y * zoom, right: x * zoom + width, bottom: y * zoom + HEIGHT - 2 };
      const hasRoom = isFree(box);
      if (hasRoom) take(box);
      cards.get(id)?.element.classList.toggle("unnamed", !hasRoom);
    }
  }
}
