/** Places after an edit: what is there stays, what is new comes to stand near what it is wired to, others make room. */
import { BETWEEN, CARD_WIDTH, GAP } from "moth/workbench/graph/places/layout.js";

/** @typedef {import("./layout.js").Box} Box */
/** @typedef {import("./layout.js").Point} Point */

const COLUMN = CARD_WIDTH + GAP;
/** A card that a hand put farther than this above or below what it is wired to comes nearer. */
const FAR_OFF = 260;
/** Cards are pushed apart so many times at most. */
const MOST_ROUNDS = 50;

/**
 * Where all cards lie after an edit.
 * @param {Box[]} boxes a `place` is where a hand put a card
 * @param {Map<string, Point>} before where they lay
 * @param {Set<string>} free those that are to find a place: new ones, and loose ones that were just wired
 * @param {[string, string][]} added wires that were not there, each from a source to a reader
 * @param {Map<string, Point>} [wishes] where a hand put free cards: they stay there if it is near, and their wires run to the right
 * @returns {Map<string, Point>}
 */
export function settled(boxes, before, free, added, wishes = new Map()) {
  let ground = new Ground(boxes, before, free);
  for (const id of ground.inOrder(free)) ground.settle(id, wishes.get(id));
  for (const [source, reader] of added)
    if (!free.has(source) && !free.has(reader)) ground = ground.straightened(source, reader);
  ground.makeRoom();
  return ground.places;
}

class Ground {
  /**
   * @param {Box[]} boxes
   * @param {Map<string, Point>} before
   * @param {Set<string>} free
   */
  constructor(boxes, before, free) {
    this.boxes = new Map(boxes.map((box) => [box.id, box]));
    /** @type {Map<string, Point>} */
    this.places = new Map();
    for (const { id, place } of boxes) {
      const at = place ?? (free.has(id) ? undefined : before.get(id));
      if (at) this.places.set(id, at);
    }
    /** @type {Map<string, string[]>} */
    this.readers = new Map(boxes.map(({ id }) => [id, []]));
    for (const { id, sources } of boxes) for (const source of sources) this.readers.get(source)?.push(id);
    /** Cards that lie elsewhere now. @type {Set<string>} */
    this.moved = new Set();
  }

  /** @param {string} id */
  height(id) {
    return this.boxes.get(id)?.height ?? 0;
  }

  /** @param {string} id */
  isHeld(id) {
    return !!this.boxes.get(id)?.place;
  }

  /** The places of some cards, of those that have one. @param {string[]} ids @returns {[string, Point][]} */
  placed(ids) {
    return ids.flatMap((id) => {
      const at = this.places.get(id);
      return at ? [/** @type {[string, Point]} */ ([id, at])] : [];
    });
  }

  /**
   * Free cards, those beside placed ones first, so that each finds a neighbour.
   * @param {Set<string>} free
   */
  *inOrder(free) {
    const left = new Set([...free].filter((id) => this.boxes.has(id) && !this.places.has(id)));
    while (left.size) {
      const near = [...left].find((id) => this.placed(this.#neighbours(id)).length) ?? [...left][0];
      left.delete(near);
      yield near;
    }
  }

  /** @param {string} id */
  #neighbours(id) {
    return [...(this.boxes.get(id)?.sources ?? []), ...(this.readers.get(id) ?? [])];
  }

  /**
   * Puts a card between what it reads and what reads it, level with them.
   * @param {string} id
   * @param {Point | undefined} wish
   */
  settle(id, wish) {
    const sources = this.placed(this.boxes.get(id)?.sources ?? []);
    const readers = this.placed(this.readers.get(id) ?? []);
    const right = Math.max(...sources.map(([, [x]]) => x)) + COLUMN;
    const left = Math.min(...readers.map(([, [x]]) => x)) - COLUMN;
    const all = this.placed([...this.places.keys()]);
    const last = all.length ? Math.max(...all.map(([, [x]]) => x)) : 0;
    const x = readers.length ? Math.max(left, right) : sources.length ? right : last;
    const near = [...sources, ...readers];
    const levels = (near.length ? near : all).map(([key, [, y]]) => y + this.height(key) / 2);
    const level = levels.length ? levels.reduce((sum, y) => sum + y, 0) / levels.length : 0;
    const top = level - this.height(id) / 2;
    const isKept =
      wish &&
      isBetween(wish[0], right - GAP, left + GAP) &&
      isNear(wish[0], x, COLUMN) &&
      isNear(wish[1], top, FAR_OFF);
    const [at, wanted] = isKept ? wish : [x, top];
    this.#put(id, [at, this.freeLevel(id, at, wanted)]);
    for (const [reader] of readers) this.#clear(id, reader, 1);
  }

  /** @param {string} id @param {Point} place */
  #put(id, place) {
    this.places.set(id, place);
    this.moved.add(id);
  }

  /**
   * Of two cards that are wired and lie the wrong way round the second moves, and so do those beyond it that it would reach.
   * @param {string} first the one that stays
   * @param {string} second
   * @param {1 | -1} way 1 where the second reads the first and moves right, -1 where it is read and moves left
   */
  #clear(first, second, way) {
    const todo = [[first, second]];
    for (let [from, to] = todo.pop() ?? []; to; [from, to] = todo.pop() ?? []) {
      const [end, at] = [(this.places.get(from)?.[0] ?? 0) + way * COLUMN, this.places.get(to)];
      if (!at || (at[0] - end) * way >= 0 || this.isHeld(to)) continue;
      this.#put(to, [end, at[1]]);
      const beyond = way > 0 ? this.readers.get(to) : this.boxes.get(to)?.sources;
      for (const next of beyond ?? []) if (next !== from) todo.push([to, next]);
    }
  }

  #copy() {
    const copy = new Ground([...this.boxes.values()], new Map(), new Set());
    copy.places = new Map(this.places);
    copy.moved = new Set(this.moved);
    return copy;
  }

  /** How far all cards are from where they lay in another state. @param {Ground} other */
  #away(other) {
    let sum = 0;
    for (const [id, [x, y]] of this.places) {
      const [a, b] = other.places.get(id) ?? [x, y];
      sum += Math.hypot(x - a, y - b);
    }
    return sum;
  }

  /**
   * After a new wire between cards that have places: where it would run back, the source comes over or the reader makes way,
   * whichever moves less.
   * @param {string} source
   * @param {string} reader
   * @returns {Ground}
   */
  straightened(source, reader) {
    const [from, to] = [this.places.get(source), this.places.get(reader)];
    if (!from || !to || from[0] + COLUMN <= to[0]) return this;
    const [left, right] = [this.#copy(), this.#copy()];
    left.#clear(reader, source, -1);
    right.#clear(source, reader, 1);
    for (const one of [left, right]) one.makeRoom();
    return left.#away(this) <= right.#away(this) ? left : right;
  }

  /** The cards over or under a card of such a place, from the top. @param {string} id @param {number} x */
  #beside(id, x) {
    return [...this.places]
      .filter(([other, [at]]) => other !== id && Math.abs(at - x) < CARD_WIDTH)
      .map(([other, [, y]]) => ({ other, top: y, bottom: y + this.height(other) }))
      .sort((a, b) => a.top - b.top);
  }

  /**
   * The nearest level at which a card lies on no other one.
   * @param {string} id
   * @param {number} x
   * @param {number} wanted
   */
  freeLevel(id, x, wanted) {
    const height = this.height(id);
    const beside = this.#beside(id, x);
    const tried = [wanted, ...beside.flatMap(({ top, bottom }) => [top - BETWEEN - height, bottom + BETWEEN])];
    tried.sort((a, b) => Math.abs(a - wanted) - Math.abs(b - wanted));
    return tried.find((y) => beside.every(({ top, bottom }) => y + height <= top || y >= bottom)) ?? wanted;
  }

  /** Where cards have moved or grown onto others, these go down, and those below them in turn. */
  makeRoom() {
    // Who goes down may come to lie on one that was looked at before.
    for (let rounds = 0; rounds < MOST_ROUNDS && this.#spread(); rounds += 1);
  }

  /** @returns {boolean} whether a card had to move */
  #spread() {
    let hasMoved = false;
    const order = [...this.places].sort(([, [, a]], [, [, b]]) => a - b).map(([id]) => id);
    for (const id of order) {
      const [x, y] = this.places.get(id) ?? [0, 0];
      const end = y + this.height(id);
      for (const { other, top, bottom } of this.#beside(id, x)) {
        const isOver = top < end && bottom > y;
        // Of two the one that has just come stays where it is wanted, unless a hand holds the other.
        if (!isOver || (this.moved.has(other) && !this.moved.has(id)) || this.isHeld(other)) continue;
        this.places.set(other, [this.places.get(other)?.[0] ?? 0, end + BETWEEN]);
        hasMoved = true;
      }
    }
    return hasMoved;
  }
}

/** @param {number} value @param {number} low @param {number} high */
const isBetween = (value, low, high) => value >= low && value <= high;

/** @param {number} value @param {number} other @param {number} most */
const isNear = (value, other, most) => Math.abs(value - other) <= most;
