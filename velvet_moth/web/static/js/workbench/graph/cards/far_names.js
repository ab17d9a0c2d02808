/** Cards seen from far: their pictures, and their names drawn over the graph as large as text must be, and only as many as have room. */
import { h } from "moth/base/dom.js";
import { CARD_WIDTH } from "moth/workbench/graph/places/layout.js";

/**
 * @typedef {object} Ground what is asked of the pane
 * @property {import("../../model/model.js").GraphModel} model
 * @property {import("../places/viewport.js").Viewport} view
 * @property {HTMLElement} world
 * @property {HTMLElement} pane
 * @property {Map<string, [number, number]>} places
 * @property {Map<string, import("./card_layer.js").Card>} cards
 * @property {Set<string>} selection
 */
/** @typedef {{ name: string, id: string, width: number }} Label */

/** The size of a name on the screen, in pixels. */
const SIZE = 11;
const HEIGHT = 14;
/** The size of a card's picture at full size. */
const SWATCH = 34;
/** The smallest that is drawn. */
const LEAST = 4;
/** Room is shared out anew when the view has come so much nearer or farther, so that names do not flicker. */
const STEP = 1.15;

export class FarNames {
  /** @param {Ground} pane */
  constructor(pane) {
    this.pane = pane;
    this.canvas = h("canvas", { id: "far-names", "aria-hidden": "true" });
    pane.world.after(this.canvas);
    this.context = /** @type {CanvasRenderingContext2D} */ (this.canvas.getContext("2d"));
    this.font = `600 ${SIZE}px ${getComputedStyle(pane.pane).fontFamily}`;
    /** Names as pictures: text takes long to draw, and the view moves often. @type {Map<string, HTMLCanvasElement>} */
    this.sprites = new Map();
    /** The names that have room. @type {Label[]} */
    this.labels = [];
    /** Whether room has to be shared out anew before the next drawing. */
    this.isStale = true;
    this.level = 0;
    this.asked = 0;
    pane.view.addEventListener("view", () => this.#zoomed());
    for (const event of ["shown", "selection"]) pane.pane.addEventListener(event, () => this.show());
  }

  #zoomed() {
    const { view } = this.pane;
    const level = view.isFar ? Math.round(Math.log(view.zoom) / Math.log(STEP)) : 1;
    if (level === this.level) return this.#draw();
    this.level = level;
    this.show();
  }

  /**
   * @param {string} name
   * @param {boolean} isChosen
   */
  #sprite(name, isChosen) {
    const key = `${isChosen} ${devicePixelRatio} ${name}`;
    const found = this.sprites.get(key);
    if (found) return found;
    this.context.font = this.font;
    const width = Math.ceil(this.context.measureText(name).width) + 6;
    const sprite = h("canvas", { width: width * devicePixelRatio, height: HEIGHT * devicePixelRatio });
    const context = /** @type {CanvasRenderingContext2D} */ (sprite.getContext("2d"));
    context.scale(devicePixelRatio, devicePixelRatio);
    context.fillStyle = isChosen ? "#6a2c5a" : "rgb(250 248 244 / 0.88)";
    context.fillRect(0, 0, width, HEIGHT);
    context.font = this.font;
    context.textBaseline = "middle";
    context.fillStyle = isChosen ? "#ffffff" : "#2b2230";
    context.fillText(name, 3, HEIGHT / 2 + 0.5);
    this.sprites.set(key, sprite);
    return sprite;
  }

  /**
   * How much each card tells: chosen ones most, then those with a name of their own, then those many read.
   * @returns {Map<string, number>}
   */
  #weights() {
    const { model, selection } = this.pane;
    /** @type {Map<string, number>} */
    const weights = new Map();
    for (const { wires } of model.nodes.values()) {
      for (const [source] of Object.values(wires ?? {})) weights.set(source, (weights.get(source) ?? 0) + 1);
    }
    for (const [id, node] of model.nodes) {
      const named = (node.label ? 20 : 0) + (model.parametersOf(id).length ? 10 : 0) + (selection.has(id) ? 1000 : 0);
      weights.set(id, (weights.get(id) ?? 0) + named);
    }
    return weights;
  }

  /** Draws after sharing out the room. */
  show() {
    this.isStale = true;
    this.#draw();
  }

  /** @returns {Label[]} */
  #withRoom() {
    const { model, cards, places } = this.pane;
    const weights = this.#weights();
    const zoom = STEP ** this.level;
    /** What is taken, by rows of the screen. @type {Map<number, [number, number][]>} */
    const rows = new Map();
    const heavy = [...cards.keys()].sort((a, b) => (weights.get(b) ?? 0) - (weights.get(a) ?? 0));
    return heavy.flatMap((id) => {
      const [x, y] = places.get(id) ?? [0, 0];
      const name = model.nameOf(id);
      const width = this.#sprite(name, false).width / devicePixelRatio;
      const [left, right] = [x * zoom, x * zoom + Math.max(CARD_WIDTH * zoom, width)];
      const [first, last] = [y * zoom, y * zoom + HEIGHT - 1].map((at) => Math.floor(at / HEIGHT));
      for (let row = first; row <= last; row += 1) {
        if (rows.get(row)?.some(([l, r]) => l < right && r > left)) return [];
      }
      for (let row = first; row <= last; row += 1) rows.set(row, [...(rows.get(row) ?? []), [left, right]]);
      return [{ id, name, width }];
    });
  }

  #draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.#paint());
  }

  #paint() {
    const { canvas, context } = this;
    if (this.isStale) this.labels = this.pane.view.isFar && this.pane.model.state ? this.#withRoom() : [];
    this.isStale = false;
    const { view, places, selection, cards } = this.pane;
    canvas.hidden = !view.isFar;
    if (canvas.hidden) return;
    const { clientWidth: width, clientHeight: height } = this.pane.pane;
    const ratio = devicePixelRatio;
    if (canvas.width !== width * ratio || canvas.height !== height * ratio) {
      canvas.width = width * ratio;
      canvas.height = height * ratio;
    }
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    const named = new Set(this.labels.map(({ id }) => id));
    // Smaller than a few pixels a picture tells nothing.
    for (const [id, { element, picture, height: tall }] of SWATCH * view.zoom < LEAST ? [] : cards) {
      const [left, top] = places.get(id) ?? [0, 0];
      // Below the name where there is one, and no larger than the card has room for.
      const under = named.has(id) ? HEIGHT + 2 : 4 * view.zoom;
      const size = Math.min(SWATCH * view.zoom, tall * view.zoom - under - 1);
      const [x, y] = [(left + 6) * view.zoom + view.x, top * view.zoom + view.y + under];
      if (size < LEAST) continue;
      if (x > width || y > height || x + size < 0 || y + size < 0 || element.hidden) continue;
      if (picture.complete && picture.naturalWidth) context.drawImage(picture, x, y, size, size);
    }
    for (const { id, name, width: wide } of this.labels) {
      const [left, top] = places.get(id) ?? [0, 0];
      // On whole pixels, or the letters blur.
      const [x, y] = [left * view.zoom + view.x, top * view.zoom + view.y].map((at) => Math.round(at) + 1);
      if (x > width || y > height || x + wide < 0 || y < -HEIGHT) continue;
      context.drawImage(this.#sprite(name, selection.has(id)), x, y, wide, HEIGHT);
    }
  }
}
