/** The keys that are chosen on the timeline, by target and time. */

/** @typedef {import("../model/keys.js").Keys} Keys */

/** Two numbers are the same time where they differ by less, in seconds. */
const SAME = 1e-6;

export class Chosen extends EventTarget {
  /** @param {Keys} keys */
  constructor(keys) {
    super();
    this.keys = keys;
    /** @type {Map<string, Set<number>>} */
    this.times = new Map();
  }

  get count() {
    return [...this.times.values()].reduce((sum, times) => sum + times.size, 0);
  }

  /** As the core takes them. */
  get list() {
    return [...this.times].map(([target, times]) => ({ target, times: [...times].sort((a, b) => a - b) }));
  }

  /** The first and the last of their times; null where none is chosen. @returns {[number, number] | null} */
  get ends() {
    const all = this.list.flatMap(({ times }) => times);
    return all.length ? [Math.min(...all), Math.max(...all)] : null;
  }

  /** @param {string} target @param {number} time */
  has(target, time) {
    return !!this.times.get(target)?.has(time);
  }

  /** Chooses one key, or adds it to the others or takes it from them. @param {string} target @param {number} time @param {boolean} isMore */
  pick(target, time, isMore) {
    if (!isMore) this.times.clear();
    const held = this.times.get(target) ?? new Set();
    if (isMore && held.has(time)) held.delete(time);
    else held.add(time);
    if (held.size) this.times.set(target, held);
    else this.times.delete(target);
    this.#changed();
  }

  /** @param {{ target: string, times: number[] }[]} list @param {boolean} [isMore] */
  set(list, isMore = false) {
    if (!isMore) this.times.clear();
    for (const { target, times } of list)
      if (times.length) this.times.set(target, new Set([...(this.times.get(target) ?? []), ...times]));
    this.#changed();
  }

  clear() {
    if (this.times.size) this.set([]);
  }

  /** All keys of a target, or ("") of every one. @param {string} target */
  all(target) {
    const targets = target ? [target] : this.keys.targets();
    this.set(targets.map((one) => ({ target: one, times: this.keys.trackOf(one)?.keys.map((key) => key.time) ?? [] })));
  }

  /** After an edit: those of them that are there, with their times as the document has them. */
  refresh() {
    const found = this.list.map(({ target, times }) => {
      const there = this.keys.trackOf(target)?.keys.map((key) => key.time) ?? [];
      return { target, times: there.filter((one) => times.some((time) => Math.abs(one - time) < SAME)) };
    });
    this.times = new Map(
      found.filter(({ times }) => times.length).map(({ target, times }) => [target, new Set(times)]),
    );
  }

  #changed() {
    this.dispatchEvent(new Event("change"));
  }
}
