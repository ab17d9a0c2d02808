/** What has been thrown at the stage and is not kept yet: each throw with the decals that came of it. */
import { postJson } from "moth/base/api.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("../../../types.d.ts").SplashState} SplashState */
/** @typedef {import("../../../types.d.ts").Aim} Aim */
/** @typedef {import("../../../types.d.ts").Throw} Throw */

/** So many throws are asked for at once; the server takes no more. */
const AT_ONCE = 60;

/** Events: `changed` when there are others, or another one is chosen. */
export class Thrown extends EventTarget {
  /**
   * @param {import("../../model/model.js").GraphModel} model
   * @param {import("../../../stage/stage.js").Stage} stage
   * @param {() => unknown} rule the rule by which is thrown, as its file has it
   */
  constructor(model, stage, rule) {
    super();
    this.model = model;
    this.stage = stage;
    this.rule = rule;
    /** @type {SplashState[]} */
    this.splashes = [];
    this.chosen = -1;
    /** What the next throw has. */
    this.seed = 1;
    this.keepsSeed = false;
    this.strength = 0.6;
    /** @type {[number, number, number]} */
    this.tint = [1, 1, 1];
    /** @type {[number, number, number, number]} */
    this.numbers = [0, 0, 0, 0];
    /** How many are judged. */
    this.count = 500;
    /** How the last throw was aimed. @type {Partial<Aim> | null} */
    this.lastAim = null;
    /** Requests go one after the other; of those for other rules only the newest matters. */
    this.queue = Promise.resolve();
    this.wanted = 0;
  }

  get decals() {
    return this.splashes.flatMap(({ decals }) => decals);
  }

  get choice() {
    return this.splashes[this.chosen] ?? null;
  }

  /**
   * Throws as aimed, each with a seed of its own unless that is kept.
   * @param {Partial<Aim>} aim
   * @param {number[]} [moments] seconds, one for each throw
   */
  throwAt(aim, moments = [this.stage.time]) {
    this.lastAim = aim;
    const { strength, tint, numbers } = this;
    const aims = moments.map((moment) => {
      const made = { strength, tint, numbers, ...aim, moment, seed: this.seed };
      if (!this.keepsSeed) this.seed = (this.seed + 1) % 65536;
      return made;
    });
    return this.#ask({ aims }, (found) => {
      this.splashes.push(...found);
      this.chosen = this.splashes.length - 1;
      if (!found.some(({ decals }) => decals.length)) notice(found[0].words.join(" "), { mend: "Aim elsewhere." });
    });
  }

  /** Throws what a list of throws says, in the place of all there are. @param {Throw[]} throws */
  show(throws) {
    return this.#ask({ throws }, (found) => {
      this.splashes = found;
      this.chosen = found.length - 1;
    });
  }

  /** Has everything land once more, by the rule as it is now. */
  land() {
    if (!this.splashes.length) return;
    const wanted = (this.wanted += 1);
    const isNewest = () => wanted === this.wanted;
    const all = this.splashes.map((splash) => splash.throw);
    for (let from = 0; from < all.length; from += AT_ONCE)
      void this.#ask(
        { throws: all.slice(from, from + AT_ONCE) },
        (found) => this.splashes.splice(from, found.length, ...found),
        isNewest,
      );
  }

  /**
   * @param {{ aims?: Partial<Aim>[], throws?: Throw[] }} asked
   * @param {(found: SplashState[]) => void} take
   * @param {() => boolean} [isWanted]
   */
  #ask(asked, take, isWanted = () => true) {
    const done = this.queue.then(async () => {
      if (!isWanted()) return;
      const { splashes } = await postJson(`${this.model.url}/throws`, { ...asked, rule: this.rule() });
      take(splashes);
      this.#show();
    });
    this.queue = done.catch(tell);
    return this.queue;
  }

  /** @param {number} at */
  choose(at) {
    this.chosen = Math.min(Math.max(at, 0), this.splashes.length - 1);
    this.dispatchEvent(new Event("changed"));
  }

  clear() {
    const before = { splashes: this.splashes, chosen: this.chosen };
    this.splashes = [];
    this.chosen = -1;
    this.#show();
    if (before.splashes.length)
      notice(`${before.splashes.length} throws are gone.`, {
        action: "Bring them back",
        act: () => {
          Object.assign(this, before);
          this.#show();
        },
      });
  }

  /** Makes them decals of the graph. */
  async keep() {
    const own = this.model.state.decals;
    const made = this.decals;
    const most = this.model.settings.most_decals;
    if (own.length + made.length > most)
      return void notice(`A graph keeps ${most} decals; these would be ${own.length + made.length}.`, {
        mend: "Clear some throws, or remove decals.",
      });
    if (await this.model.edit({ op: "set_decals", value: [...own, ...made] })) {
      this.splashes = [];
      this.chosen = -1;
      this.#show();
    }
  }

  #show() {
    this.stage.setThrown(
      this.decals,
      this.splashes.flatMap(({ sources }) => sources),
    );
    this.dispatchEvent(new Event("changed"));
  }
}
