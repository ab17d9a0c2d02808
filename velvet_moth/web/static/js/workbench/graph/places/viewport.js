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
/** Between what covers the pane's edges and what is brought into view. */
const CLEAR = 10;

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
    const { free } = this;
    /** @param {Box} into */
    const zoomFor = (into) => {
      const [width, height] = [into.right - into.left - 56, into.bottom - into.top - 14];
      return Math.min(1, Math.max(LEAST_ZOOM, Math.min(width / (right - left), height / (bottom - top))));
    };
    // The overview takes a corner: beside it or above it, wherever more room is left.
    const overview = shownBox(this.pane, "#overview");
    const rooms = overview
      ? [
          { ...free, left: Math.max(free.left, overview.right) },
          { ...free, bottom: Math.min(free.bottom, overview.top) },
        ]
      : [free];
    const [room] = rooms.sort((a, b) => zoomFor(b) - zoomFor(a));
    const width = room.right - room.left;
    if (width <= 0) return;
    const zoom = zoomFor(room);
    // Small graphs are next to the dock, where they end.
    const x = (right - left) * zoom > width - 80 ? 16 - left * zoom : width - 40 - right * zoom;
    this.set({ zoom, x: x + room.left, y: (room.top + room.bottom - (bottom + top) * zoom) / 2 });
  }

  /**
   * Moves just so far that a box of the graph is seen whole.
   * @param {Box} box
   */
  reveal(box) {
    const { free } = this;
    const [left, top] = [box.left * this.zoom + this.x, box.top * this.zoom + this.y];
    const [right, bottom] = [box.right * this.zoom + this.x, box.bottom * this.zoom + this.y];
    const edge = free.left + 12;
    const dx = left < edge ? edge - left : Math.min(0, free.right - 30 - right);
    const dy = top < free.top ? free.top - top : Math.max(free.top - top, Math.min(0, free.bottom - bottom));
    if (dx || dy) this.set({ x: this.x + dx, y: this.y + dy });
  }

  /**
   * What bars and panels leave free of the pane, from its corner.
   * @returns {Box}
   */
  get free() {
    const { pane } = this;
    const upper = shownBox(pane, "#comparison") ?? shownBox(pane, ".pane-tools");
    return {
      left: shownBox(pane, ".side-panel")?.right ?? 0,
      top: (upper?.bottom ?? 0) + CLEAR,
      right: pane.clientWidth,
      bottom: (shownBox(pane, "#problems")?.top ?? pane.clientHeight) - CLEAR,
    };
  }

  /** @param {Point} place of the graph, to be seen in the middle */
  centre([x, y]) {
    const [middleX, middleY] = this.#centre;
    this.set({ x: middleX - x * this.zoom, y: middleY - y * this.zoom });
  }

  /** @returns {Point} the place of the graph in the middle of the pane */
  get middle() {
    const [middleX, middleY] = this.#centre;
    return [(middleX - this.x) / this.zoom, (middleY - this.y) / this.zoom];
  }

  /** @returns {Point} the middle of what is free, from the pane's corner */
  get #centre() {
    const { left, top, right, bottom } = this.free;
    return [(left + right) / 2, (top + bottom) / 2];
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

/**
 * Where a part of the pane is, if it is shown.
 * @param {HTMLElement} pane
 * @param {string} selector
 * @returns {Box | null} from the pane's corner
 */
export function shownBox(pane, selector) {
  const element = /** @type {HTMLElement | null} */ (pane.querySelector(`${selector}:not([hidden])`));
  if (!element) return null;
  const { offsetLeft: left, offsetTop: top, offsetWidth, offsetHeight } = element;
  return { left, top, right: left + offsetWidth, bottom: top + offsetHeight };
}
