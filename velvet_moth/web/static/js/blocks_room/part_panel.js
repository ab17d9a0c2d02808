/** What is done with a chosen part: moved, turned, mirrored, copied, stamped, taken away. */
import { h } from "moth/base/dom.js";

/** @typedef {import("./drawing.js").Drawing} Drawing */
/** @typedef {import("./drawing.js").Ends} Ends */
/** @typedef {import("./drawing.js").Cell} Cell */
/** @typedef {import("../types.d.ts").BlockMove} BlockMove */

const AXES = ["x", "y", "z"];

/** The lowest and the highest cell. @param {Ends} part @returns {Ends} */
const sorted = ([one, other]) => [
  /** @type {Cell} */ (one.map((part, axis) => Math.min(part, other[axis]))),
  /** @type {Cell} */ (one.map((part, axis) => Math.max(part, other[axis]))),
];

export class PartPanel {
  /**
   * @param {HTMLElement} place
   * @param {Drawing} drawing
   * @param {(move: Partial<BlockMove> & { low: Cell, high: Cell, to: Cell }) => Promise<boolean>} ask
   */
  constructor(place, drawing, ask) {
    this.place = place;
    this.drawing = drawing;
    this.ask = ask;
    drawing.addEventListener("part", () => this.draw());
    drawing.addEventListener("changed", () => this.draw());
    drawing.addEventListener("place", (event) => void this.#put(/** @type {CustomEvent} */ (event).detail));
    this.draw();
  }

  draw() {
    const { part, way } = this.drawing;
    this.place.hidden = !part;
    if (!part) return;
    const [low, high] = sorted(part);
    const size = low.map((from, axis) => high[axis] - from + 1);
    const button = (/** @type {string} */ words, /** @type {string} */ title, /** @type {() => void} */ onclick) =>
      h("button", { type: "button", class: "button small", title, "aria-label": title, onclick }, words);
    const taking = (/** @type {string} */ key, /** @type {string} */ words, /** @type {string} */ title) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          title,
          "aria-pressed": String(way === key),
          onclick: () => this.drawing.set({ way: way === key ? "choose" : key }),
        },
        words,
      );
    const row = (/** @type {string} */ words, /** @type {Node[]} */ ...buttons) =>
      h("div", { class: "tool-group" }, h("span", { class: "quiet" }, words), ...buttons);
    const stepped = (/** @type {number} */ axis, /** @type {number} */ by) => {
      const to = /** @type {Cell} */ (low.map((from, at) => from + (at === axis ? by : 0)));
      return button(
        `${by > 0 ? "+" : "−"}${AXES[axis]}`,
        `${by > 0 ? "Up" : "Down"} one block along ${AXES[axis]}`,
        () => void this.#move({ to }),
      );
    };
    this.place.replaceChildren(
      h("h3", {}, `Chosen part, ${size.join(" × ")}`),
      row("Move", ...[0, 1, 2].flatMap((axis) => [stepped(axis, -1), stepped(axis, 1)])),
      row(
        "Turn about",
        ...AXES.map((axis, at) =>
          button(axis, `A quarter turn about ${axis}`, () => void this.#move({ to: low, turns: only(at, 1, 0) })),
        ),
        h("span", { class: "quiet" }, "Mirror"),
        ...AXES.map((axis, at) =>
          button(axis, `Mirrored along ${axis}`, () => void this.#move({ to: low, mirrored: only(at, true, false) })),
        ),
      ),
      row(
        "Place",
        taking("move", "Move there", "The next press moves the part"),
        taking("stamp", "Stamp", "Every press puts a copy"),
        button("Take away", "Take away (Delete)", () => this.takeAway()),
        button("Let go", "Let go (Escape)", () => this.drawing.choose(null)),
      ),
    );
  }

  /** Takes the blocks of the part away. */
  takeAway() {
    const { part, drawing } = this;
    if (!part) return;
    const [low, high] = part;
    const stroke = { shape: "box", way: "take", entry: drawing.entry, first: low, last: high };
    drawing.dispatchEvent(new CustomEvent("draw", { detail: [stroke] }));
  }

  get part() {
    return this.drawing.part && sorted(this.drawing.part);
  }

  /**
   * Moves the part, which stays chosen where it is then.
   * @param {Partial<BlockMove> & { to: Cell }} move
   */
  async #move(move) {
    const { part } = this;
    if (!part) return;
    const [low, high] = part;
    if (!(await this.ask({ low, high, ...move }))) return;
    let size = low.map((from, axis) => high[axis] - from);
    for (const [axis, quarters] of (move.turns ?? []).entries()) if (quarters % 2) size = turnedSize(size, axis);
    const { to } = move;
    this.drawing.choose([to, /** @type {Cell} */ (to.map((from, axis) => from + size[axis]))]);
  }

  /** @param {{ way: string, to: Cell }} placed */
  async #put({ way, to }) {
    const { part } = this;
    if (!part) return;
    const [low, high] = part;
    if (way === "stamp") await this.ask({ low, high, to, copy: true });
    else {
      this.drawing.set({ way: "choose" });
      await this.#move({ to });
    }
  }
}

/** @template T @param {number} axis @param {T} value @param {T} other @returns {[T, T, T]} */
const only = (axis, value, other) => /** @type {[T, T, T]} */ ([0, 1, 2].map((at) => (at === axis ? value : other)));

/** How large a box is after a quarter turn. @param {number[]} size @param {number} axis */
function turnedSize(size, axis) {
  const [one, other] = [0, 1, 2].filter((at) => at !== axis);
  const made = [...size];
  [made[one], made[other]] = [size[other], size[one]];
  return made;
}
