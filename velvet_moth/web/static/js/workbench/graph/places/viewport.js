/** What part of the graph is seen: pan, zoom, and between screen and graph. */

import { byId } from "moth/base/dom.js";

/** @typedef {[number, number]} Point */
/** @typedef {{ left: number, top: number, right: number, bottom: number }} Box */

export const LEAST_ZOOM = 0.05;
const MOST_ZOOM = 2;
/** Below this cards show their names alone, so that these stay legible. */
const FAR = 0.5;
/** Below this names take the room of values that are too small to be read. */
const MIDDLING = 0.68;
/** So long after the last movement the view is at rest, in milliseconds. */
const REST = 200;
/** What the tools cover of the pane's upper edge. */
const TOOLS = 44;

export class Viewport extends EventTarget {
  /**
   * @param {HTMLElement} pane
   * @param {HTMLElement} world
   * @param {number} column the width of a column at full size
   */
  constructor(pane, world, column) {
    super();
    Object.assign(this, { x: 0, y: 0, zoom: 1 });
    this.x = 0;
    this.y = 0;
    this.zoom = 1;
    this.pane = pane;
    this.world = world;
    /** @type {HTMLElement} */
    this.docked = byId("dock-wires");
    this.column = column;
    /** @type {ReturnType<typeof setTimeout> | undefined} */
    this.rest = undefined;
  }

  /**
   * How far the graph reaches. A browser moves what has a size much faster than what only overflows.
   * @param {Box} box
   */
  setExtent({ right, bottom }) {
    this.world.style.width = `${Math.max(0, Math.ceil(right))}px`;
    this.world.style.height = `${Math.max(0, Math.ceil(bottom))}px`;
  }

  get isFar() {
    return this.zoom < FAR;
  }

  /** @param {{ x?: number, y?: number, zoom?: number }} to */
  set(to) {
    this.x = to.x ?? this.x;
    this.y = to.y ?? this.y;
    const before = this.zoom;
    this.zoom = to.zoom ?? this.zoom;
    this.#moving();
    const transform = `translate(${this.x}px, ${this.y}px) scale(${this.zoom})`;
    for (const layer of [this.world, this.docked]) layer.style.transform = transform;
    this.pane.style.backgroundPositionX = `${this.x}px`;
    if (before !== this.zoom || !this.pane.style.backgroundSize) {
      this.pane.style.backgroundSize = `${this.column * this.zoom}px 100%`;
      this.world.classList.toggle("far", this.isFar);
      this.world.classList.toggle("middling", !this.isFar && this.zoom < MIDDLING);
    }
    this.dispatchEvent(new Event("view"));
  }

  /** While it moves, the graph is a picture of its own, moved whole; at rest it is drawn sharp. */
  #moving() {
    this.world.style.willChange = "transform";
    clearTimeout(this.rest);
    this.rest = setTimeout(() => (this.world.style.willChange = ""), REST);
  }

  /**
   * @param {number} factor
   * @param {number} [atX] the place that stays, from the pane's corner
   * @param {number} [atY]
   */
  zoomBy(factor, atX = this.pane.clientWidth / 2, atY = this.pane.clientHeight / 2) {
    const next = Math.min(MOST_ZOOM, Math.max(LEAST_ZOOM, this.zoom * factor));
    const share = next / this.zoom;
    this.set({ zoom: next, x: atX - (atX - this.x) * share, y: atY - (atY - this.y) * share });
  }

  /**
   * Brings a box of the graph into view, whole.
   * @param {Box} box
   */
  fit({ left, top, right, bottom }) {
    const { covered, above } = this;
    const [width, height] = [this.pane.clientWidth - covered, this.pane.clientHeight];
    if (width <= 0) return;
    const zoom = Math.min(
      1,
      Math.max(LEAST_ZOOM, Math.min((width - 56) / (right - left), (height - above - 24) / (bottom - top))),
    );
    // Small graphs lie next to the dock, where they end.
    const x = (right - left) * zoom > width - 80 ? 16 - left * zoom : width - 40 - right * zoom;
    this.set({ zoom, x: x + covered, y: (height + above - 12 - (bottom + top) * zoom) / 2 });
  }

  /**
   * Moves just so far that a box of the graph is seen whole.
   * @param {Box} box
   * @param {number} below what covers the pane's lower edge
   */
  reveal(box, below) {
    const [left, top] = [box.left * this.zoom + this.x, box.top * this.zoom + this.y];
    const [right, bottom] = [box.right * this.zoom + this.x, box.bottom * this.zoom + this.y];
    const { clientWidth, clientHeight } = this.pane;
    const edge = this.covered + 12;
    const dx = left < edge ? edge - left : Math.min(0, clientWidth - 30 - right);
    const { above } = this;
    const dy = top < above ? above - top : Math.max(above - top, Math.min(0, clientHeight - below - bottom));
    if (dx || dy) this.set({ x: this.x + dx, y: this.y + dy });
  }

  /** What a panel covers of the pane's left side. */
  get covered() {
    const panel = this.pane.querySelector(".side-panel:not([hidden])");
    return panel instanceof HTMLElement ? panel.offsetLeft + panel.offsetWidth : 0;
  }

  /** What tools, and a comparison where there is one, cover of the pane's upper side. */
  get above() {
    const panel = this.pane.querySelector("#comparison:not([hidden])");
    return panel instanceof HTMLElement ? panel.offsetTop + panel.offsetHeight + 8 : TOOLS;
  }

  /** @param {Point} place of the graph, to be seen in the middle */
  centre([x, y]) {
    this.set({
      x: (this.pane.clientWidth + this.covered) / 2 - x * this.zoom,
      y: this.pane.clientHeight / 2 - y * this.zoom,
    });
  }

  /** @returns {Point} the place of the graph in the middle of the pane */
  get middle() {
    return [
      ((this.pane.clientWidth + this.covered) / 2 - this.x) / this.zoom,
      (this.pane.clientHeight / 2 - this.y) / this.zoom,
    ];
  }

  /**
   * @param {Point} place of the graph
   * @returns {Point} from the pane's corner
   */
  toPane([x, y]) {
    return [x * this.zoom + this.x, y * this.zoom + this.y];
  }

  /**
   * @param {number} clientX
   * @param {number} clientY
   * @returns {Point}
   */
  toWorld(clientX, clientY) {
    const box = this.pane.getBoundingClientRect();
    return [(clientX - box.left - this.x) / this.zoom, (clientY - box.top - this.y) / this.zoom];
  }
}
