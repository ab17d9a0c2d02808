/** A stroke under way: its points, and the core that says what each new one changes. */
import { Refused, send } from "moth/base/api.js";

/** @typedef {import("../types.d.ts").Stroke} Stroke */
/** @typedef {Omit<Stroke, "points">} BrushSettings */

/** The layers of a painted step. */
export const LAYERS = /** @type {const} */ (["red", "green", "blue", "alpha"]);
/** Place and normal, three numbers each; radius, strength, pressure. */
const WIDTH = 9;
/** As many as a stroke may have. */
const MOST = 4000;

/** @param {number[][]} rows */
export function textOf(rows) {
  const bytes = new Uint8Array(new Float32Array(rows.flat()).buffer);
  let text = "";
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(text);
}

export class StrokeUnderWay {
  /**
   * @param {string} url of the stack
   * @param {string} step
   * @param {BrushSettings} brush
   * @param {() => unknown} stack as the page has it, once earlier strokes are in it
   * @param {(vertices: Uint32Array, values: Float32Array) => void} seen hears what has changed
   */
  constructor(url, step, brush, stack, seen) {
    this.url = url;
    this.step = step;
    this.brush = brush;
    this.stack = stack;
    this.seen = seen;
    this.name = crypto.randomUUID();
    /** @type {number[][]} */
    this.rows = [];
    this.sent = 0;
    /** @type {Promise<void>} */
    this.sending = Promise.resolve();
    this.isSending = false;
    /** What has changed so far, to be put back over whatever is fetched meanwhile. @type {[Uint32Array, Float32Array][]} */
    this.changes = [];
  }

  get isFull() {
    return this.rows.length >= MOST;
  }

  /** Whether it does anything: a press that goes nowhere combs nothing. */
  get does() {
    return this.rows.length > (this.brush.mode === "comb" ? 1 : 0);
  }

  /** @returns {Stroke} */
  get whole() {
    return { ...this.brush, points: textOf(this.rows) };
  }

  /** @param {number[]} row of nine numbers */
  add(row) {
    if (row.length === WIDTH && !this.isFull) this.rows.push(row);
  }

  /** Sends what is new, as soon as what was sent before is answered. @param {Promise<unknown>} after */
  flush(after) {
    if (!this.isSending) {
      this.isSending = true;
      this.sending = after.then(() => this.#send()).finally(() => (this.isSending = false));
    }
    return this.sending;
  }

  async #send() {
    while (this.sent < this.rows.length) {
      const [begun, end] = [this.sent, this.rows.length];
      const stroke = { ...this.brush, points: textOf(this.rows.slice(begun, end)) };
      const asked = { drawing: this.name, step: this.step, begun, stroke, stack: begun ? null : this.stack() };
      try {
        await this.#take(await this.#post(asked));
        this.sent = end;
      } catch (error) {
        // A server that was started again knows of no stroke: it gets all of it.
        if (!(error instanceof Refused && error.status === 404 && begun)) throw error;
        this.name = crypto.randomUUID();
        this.sent = 0;
      }
    }
  }

  /** @param {unknown} asked */
  #post(asked) {
    const headers = { "Content-Type": "application/json" };
    return send(`${this.url}/brush`, { method: "POST", headers, body: JSON.stringify(asked) });
  }

  /** @param {Response} answer */
  async #take(answer) {
    const count = Number(answer.headers.get("X-Vertices"));
    const bytes = await answer.arrayBuffer();
    const change = /** @type {[Uint32Array, Float32Array]} */ ([
      new Uint32Array(bytes, 0, count),
      new Float32Array(bytes, count * 4, count * 4),
    ]);
    this.changes.push(change);
    this.seen(...change);
  }

  /** Shows again what has changed so far. */
  seeAgain() {
    for (const change of this.changes) this.seen(...change);
  }
}
