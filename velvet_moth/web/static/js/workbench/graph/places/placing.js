/** Where cards lie: laid out by the worker as the graph grows, moved there so that the eye can follow. */
import { CARD_WIDTH, GAP, readerOf, routeKey } from "moth/workbench/graph/places/layout.js";

/** @typedef {[number, number]} Point */
/** @typedef {import("./layout.js").Box} Box */

const MOVE_TIME = 180;
/** More cards than this are not moved step by step. */
const MOST_MOVED = 160;

export class Placing {
  /** @param {(ids: Set<string>) => void} moved called whenever places or ways have changed, with whose */
  constructor(moved) {
    this.moved = moved;
    /** Where each card is seen. @type {Map<string, Point>} */
    this.places = new Map();
    /** Where cards without any wire were placed, until they are wired. @type {Map<string, Point>} */
    this.loose = new Map();
    this.worker = new Worker(new URL("layout_worker.js", import.meta.url), { type: "module" });
    this.worker.addEventListener("message", (event) => this.#arrived(event.data));
    this.asked = 0;
    this.answered = 0;
    this.shape = "";
    this.frame = 0;
    /** The columns that long wires cross. @type {Map<string, Point[]>} */
    this.routes = new Map();
    /** Cards that lie where a hand put them. @type {Set<string>} */
    this.byHand = new Set();
    this.isFirst = true;
  }

  /** Whether nothing is being laid out or moving. */
  get isSettled() {
    return this.asked === this.answered && !this.frame;
  }

  /**
   * @param {Box[]} boxes
   * @param {string[]} docked
   * @param {string[][]} groups cards that are to lie together
   * @returns {boolean} whether anything had to be laid out, so that all was drawn
   */
  layOut(boxes, docked, groups) {
    const wired = new Set([...docked, ...boxes.flatMap((box) => (box.sources.length ? [box.id, ...box.sources] : []))]);
    for (const id of this.loose.keys()) if (wired.has(id)) this.loose.delete(id);
    const held = boxes.map((box) => ({ ...box, place: box.place ?? this.loose.get(box.id) }));
    // Values change often, the shape of a graph seldom: it is laid out only when it did.
    const shape = JSON.stringify([held, docked, groups]);
    if (shape === this.shape) return false;
    this.shape = shape;
    const known = new Set(boxes.map((box) => box.id));
    for (const id of this.places.keys()) if (!known.has(id)) this.places.delete(id);
    const byHand = new Set(held.filter((box) => box.place).map((box) => box.id));
    // Wires turn off their ways where a hand has put a card, and back.
    const moved = new Set([...this.byHand, ...byHand].filter((id) => this.byHand.has(id) !== byHand.has(id)));
    for (const box of held) {
      const before = this.places.get(box.id);
      if (before && (!box.place || isNear(before, box.place))) continue;
      if (box.place) this.places.set(box.id, box.place);
      else if (!this.isFirst) this.places.set(box.id, this.#beside(box));
      moved.add(box.id);
    }
    this.byHand = byHand;
    this.asked += 1;
    this.worker.postMessage({ number: this.asked, boxes: held, docked, groups });
    this.moved(moved);
    return true;
  }

  /** The next layout is made even where the shape is the same. */
  reset() {
    this.shape = "";
  }

  /**
   * A first place for a new card: right of what it reads.
   * @param {Box} box
   * @returns {Point}
   */
  #beside(box) {
    const sources = box.sources.flatMap((id) => [this.places.get(id) ?? []]).filter((p) => p.length);
    if (!sources.length) return [0, 0];
    const right = Math.max(...sources.map(([x]) => x ?? 0));
    return [right + CARD_WIDTH + GAP, sources.reduce((sum, [, y]) => sum + (y ?? 0), 0) / sources.length];
  }

  /**
   * The columns a wire crosses on its way, while both its ends lie where they were laid.
   * @param {string} source
   * @param {string} reader
   * @returns {Point[]}
   */
  route(source, reader) {
    if (this.frame || this.byHand.has(source) || this.byHand.has(reader)) return [];
    return this.routes.get(routeKey(source, reader)) ?? [];
  }

  /** @param {{ number: number, places: [string, Point][], routes: [string, Point[]][] }} answer */
  #arrived({ number, places, routes }) {
    this.answered = number;
    // A newer layout is on its way.
    if (number !== this.asked) return;
    const before = this.routes;
    this.routes = new Map(routes);
    const ways = new Set([...before.keys(), ...this.routes.keys()]);
    const turned = [...ways].filter((key) => `${before.get(key)}` !== `${this.routes.get(key)}`);
    this.#moveTo(new Map(places), new Set(turned.map(readerOf)));
  }

  /**
   * @param {Map<string, Point>} goal
   * @param {Set<string>} turned the readers of wires that have another way now
   */
  #moveTo(goal, turned) {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
    const moving = [...goal].filter(([id, place]) => !isNear(this.places.get(id), place));
    const moved = new Set([...turned, ...moving.map(([id]) => id)]);
    const isStill =
      this.isFirst || moving.length > MOST_MOVED || matchMedia("(prefers-reduced-motion: reduce)").matches;
    this.isFirst = false;
    if (isStill || !moving.length) {
      this.places = goal;
      return this.moved(moved);
    }
    const starts = new Map(moving.map(([id, place]) => [id, this.places.get(id) ?? place]));
    const began = performance.now();
    const step = () => {
      const share = Math.min(1, (performance.now() - began) / MOVE_TIME);
      const eased = 1 - (1 - share) ** 3;
      for (const [id, [x, y]] of moving) {
        const [a, b] = starts.get(id) ?? [x, y];
        this.places.set(id, [a + (x - a) * eased, b + (y - b) * eased]);
      }
      this.frame = share < 1 ? requestAnimationFrame(step) : 0;
      if (share === 1) this.places = goal;
      this.moved(moved);
    };
    this.frame = requestAnimationFrame(step);
  }

  /**
   * Puts cards somewhere at once, by hand.
   * @param {Iterable<[string, Point]>} places
   */
  put(places) {
    const moved = new Set();
    for (const [id, place] of places) {
      this.places.set(id, place);
      this.byHand.add(id);
      moved.add(id);
    }
    this.moved(moved);
  }
}

/**
 * @param {Point | undefined} one
 * @param {Point} other
 */
const isNear = (one, [x, y]) => !!one && Math.abs(one[0] - x) <= 0.5 && Math.abs(one[1] - y) <= 0.5;
