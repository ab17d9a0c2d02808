/**
 * Where cards lie. The whole graph is laid out by the worker where it is first seen, and on request; after an edit what is
 * there stays and the new finds its place. Cards move so that the eye can follow, and lie there again at the next visit.
 */
import { keep, kept } from "moth/base/settings.js";
import { endsAt, readerOf, routeKey } from "moth/workbench/graph/places/layout.js";
import { settled } from "moth/workbench/graph/places/settling.js";

/** @typedef {[number, number]} Point */
/** @typedef {import("./layout.js").Box} Box */

const MOVE_TIME = 180;
/** More cards than this are not moved step by step. */
const MOST_MOVED = 160;
/** So many cards are remembered from one visit to the next, and of so many graphs. */
const MOST_KEPT = 800;
const MOST_GRAPHS = 30;
/** Where more than this share of the cards was not there at the last visit, the graph is laid out whole. */
const MOST_NEW = 0.5;

export class Placing {
  /**
   * @param {string} graph what the places are remembered by
   * @param {(ids: Set<string>) => void} moved called whenever places or ways have changed, with whose
   */
  constructor(graph, moved) {
    this.graph = graph;
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
    /** Whether the whole graph is to be laid out. */
    this.isWhole = false;
    /** Cards that are to find other places. @type {Set<string>} */
    this.freed = new Set();
    /** What each card read when it was last placed. @type {Map<string, string[]>} */
    this.sources = new Map();
    const last = kept("places", {})[graph];
    /** The places of the last visit. @type {Map<string, Point>} */
    this.remembered = new Map(last?.places);
    for (const [key, way] of last?.routes ?? []) this.routes.set(key, way);
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
    const wishes = new Map([...this.loose].filter(([id]) => wired.has(id)));
    for (const id of wishes.keys()) this.loose.delete(id);
    const held = boxes.map((box) => ({ ...box, place: box.place ?? this.loose.get(box.id) }));
    // Values change often, the shape of a graph seldom: it is laid out only when it did.
    const shape = JSON.stringify([held, docked, groups]);
    if (shape === this.shape) return false;
    this.shape = shape;
    const known = new Set(boxes.map((box) => box.id));
    for (const id of this.places.keys()) if (!known.has(id)) this.places.delete(id);
    const before = this.isFirst ? this.remembered : this.places;
    const isKnown = boxes.filter(({ id }) => before.has(id)).length >= boxes.length * (1 - MOST_NEW);
    // A whole layout that is on its way knows nothing of this edit: it is asked for again.
    const isPending = this.asked !== this.answered;
    const isPartial = (isKnown || !this.isFirst) && boxes.length > 0 && !this.isWhole && !isPending;
    const was = this.sources;
    this.sources = new Map(boxes.map(({ id, sources }) => [id, sources]));
    const byHand = new Set(held.filter((box) => box.place).map((box) => box.id));
    // Wires turn off their ways where a hand has put a card, and back.
    const moved = new Set([...this.byHand, ...byHand].filter((id) => this.byHand.has(id) !== byHand.has(id)));
    for (const box of held) {
      const now = this.places.get(box.id);
      if (now && (!box.place || isNear(now, box.place))) continue;
      if (box.place && !isPartial) this.places.set(box.id, box.place);
      moved.add(box.id);
    }
    this.byHand = byHand;
    if (isPartial) {
      const goal = this.#settled(held, before, wishes, was);
      const turned = this.isFirst ? known : moved;
      this.places = new Map(before);
      this.#moveTo(goal, turned, true);
      return true;
    }
    this.isWhole = false;
    this.asked += 1;
    this.worker.postMessage({ number: this.asked, boxes: held, docked, groups });
    this.moved(moved);
    return true;
  }

  /**
   * Where cards lie after an edit: those that are there stay.
   * @param {Box[]} held
   * @param {Map<string, Point>} before
   * @param {Map<string, Point>} wishes where a hand put cards that were just wired
   * @param {Map<string, string[]>} was what each card read before; empty at first
   */
  #settled(held, before, wishes, was) {
    const isFree = (/** @type {Box} */ { id, place }) =>
      !place && (this.freed.has(id) || wishes.has(id) || !before.has(id));
    const free = new Set(held.filter(isFree).map(({ id }) => id));
    const added = held.flatMap(({ id, sources }) =>
      sources
        .filter((source) => was.size && !was.get(id)?.includes(source))
        .map((source) => /** @type {[string, string]} */ ([source, id])),
    );
    this.freed.clear();
    return settled(held, before, free, added, wishes);
  }

  /** The next layout is made even where the shape is the same. */
  reset() {
    this.shape = "";
  }

  /**
   * Has cards find other places at the next layout; the whole graph where all are meant.
   * @param {string[] | null} ids
   */
  release(ids) {
    this.reset();
    if (ids) for (const id of ids) this.freed.add(id);
    else this.isWhole = true;
  }

  /** Brings cards back to where they lay. @param {Map<string, Point>} places */
  bring(places) {
    const goal = new Map([...this.places].map(([id, at]) => [id, places.get(id) ?? at]));
    this.#moveTo(goal, new Set(), true);
  }

  /** The places as they are, for the next visit. */
  #remember() {
    if (this.places.size > MOST_KEPT) return;
    const others = Object.entries(kept("places", {})).filter(([graph]) => graph !== this.graph);
    const places = [...this.places].map(([id, at]) => [id, at.map(Math.round)]);
    const routes = [...this.routes].map(([key, way]) => [key, way.map((point) => point.map(Math.round))]);
    keep("places", Object.fromEntries([...others.slice(1 - MOST_GRAPHS), [this.graph, { places, routes }]]));
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
   * @param {boolean} [isPartial] whether the ways of wires are those of a layout before
   */
  #moveTo(goal, turned, isPartial = false) {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
    const moving = [...goal].filter(([id, place]) => !isNear(this.places.get(id), place));
    // A way was found around cards where they were.
    if (isPartial)
      for (const [id] of moving) for (const key of this.routes.keys()) if (endsAt(key, id)) this.routes.delete(key);
    const moved = new Set([...turned, ...moving.map(([id]) => id)]);
    const isStill =
      this.isFirst || moving.length > MOST_MOVED || matchMedia("(prefers-reduced-motion: reduce)").matches;
    this.isFirst = false;
    if (isStill || !moving.length) {
      this.places = goal;
      this.#remember();
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
      if (share === 1) {
        this.places = goal;
        this.#remember();
      }
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
    this.#remember();
    this.moved(moved);
  }
}

/**
 * @param {Point | undefined} one
 * @param {Point} other
 */
const isNear = (one, [x, y]) => !!one && Math.abs(one[0] - x) <= 0.5 && Math.abs(one[1] - y) <= 0.5;
