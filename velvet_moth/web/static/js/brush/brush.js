/** A brush on the stage: by pointer and pen, or by keys as a line between two places. */
import { tell } from "moth/base/notices.js";
import { hitAt } from "moth/brush/hits.js";
import { Ring } from "moth/brush/ring.js";
import { StrokeUnderWay } from "moth/brush/stroke.js";

/** @typedef {import("./hits.js").Hit} Hit */

/**
 * What a brush paints on.
 * @typedef {{
 *   url: () => string,
 *   step: () => string,
 *   stack: () => unknown,
 *   keep: (step: string, stroke: import("../types.d.ts").Stroke) => Promise<unknown>,
 *   seen: (vertices: Uint32Array, values: Float32Array) => void,
 *   value: (vertex: number) => number,
 *   picked: (place: number[]) => void,
 *   ready: () => Promise<unknown>,
 * }} Host `value` is what is seen at a vertex; `picked` hears where somebody looks for a stroke; `ready` once the step is seen
 */

/** What a brush is at first, as a share of the size of a mesh. */
const FIRST = 0.04;
/** Pixels between the rays of a straight line, and that an arrow key moves the brush by. */
const [BETWEEN, BY] = [3, 10];
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** Events: `changed` when it is put on or off or set otherwise. */
export class Brush extends EventTarget {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {Host} host
   */
  constructor(stage, host) {
    super();
    this.stage = stage;
    this.host = host;
    this.ring = new Ring(stage);
    this.isOn = false;
    this.radius = 0.1;
    this.strength = 1;
    /** How far the points of a stroke are apart, as a share of the radius. */
    this.spacing = 0.25;
    /** What the next press picks, in the place of painting. @type {"" | "value" | "stroke"} */
    this.picking = "";
    /** @type {import("./stroke.js").BrushSettings} */
    this.settings = {
      touches: ["red"],
      mode: "set",
      value: 1,
      softness: 0.6,
      side: "this side",
      held: "",
      fill: "",
      mirror: "",
    };
    /** @type {StrokeUnderWay | null} */
    this.stroke = null;
    /** Where the last stroke ended: a straight line begins there. @type {{ hit: Hit, x: number, y: number } | null} */
    this.end = null;
    /** Where the keys have brought it, in pixels of the canvas; the first end of a line by keys. */
    this.cursor = { x: 0, y: 0 };
    /** @type {{ x: number, y: number } | null} */
    this.begun = null;
    /** Until the strokes before are kept. @type {Promise<unknown>} */
    this.keeping = Promise.resolve();
    /** How many strokes are being drawn or kept. */
    this.underWay = 0;
    const { canvas } = stage;
    const early = { capture: true };
    canvas.addEventListener("pointerdown", (event) => this.#down(event), early);
    canvas.addEventListener("pointermove", (event) => this.#move(event), early);
    for (const name of ["pointerup", "pointercancel"])
      canvas.addEventListener(name, (event) => this.#up(/** @type {PointerEvent} */ (event)), early);
    // A press that painted is no press for anything else.
    canvas.parentElement?.addEventListener("click", (event) => this.#pressed(event), early);
    canvas.addEventListener("pointerleave", () => this.stroke || this.ring.hide());
    canvas.addEventListener("wheel", (event) => this.#wheel(event), { capture: true, passive: false });
    canvas.addEventListener("keydown", (event) => this.#key(event), early);
    stage.addEventListener("drawn", () => this.isOn && this.begun && this.#atCursor());
  }

  /** @param {boolean} isOn */
  put(isOn) {
    this.isOn = isOn;
    this.begun = this.end = null;
    if (!isOn) this.ring.hide();
    else this.cursor = { x: this.stage.canvas.clientWidth / 2, y: this.stage.canvas.clientHeight / 2 };
    this.stage.canvas.classList.toggle("painting", isOn);
    this.dispatchEvent(new Event("changed"));
  }

  /** @param {Partial<Brush["settings"]>} settings */
  set(settings) {
    Object.assign(this.settings, settings);
    this.dispatchEvent(new Event("changed"));
  }

  /** Makes it as large as suits a mesh. @param {number} size of the mesh, metres */
  fit(size) {
    this.setRadius(Number((size * FIRST).toPrecision(2)));
  }

  /** @param {number} radius metres */
  setRadius(radius) {
    this.radius = Math.min(100, Math.max(1e-4, radius));
    this.dispatchEvent(new Event("changed"));
  }

  /** @param {PointerEvent} event */
  #down(event) {
    if (!this.isOn || event.button !== 0 || !this.host.step()) return;
    const { offsetX: x, offsetY: y } = event;
    const hit = hitAt(this.stage, x, y);
    // Beside the mesh the eye is turned, as without a brush.
    if (!hit) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    this.stage.canvas.focus();
    this.stage.canvas.setPointerCapture(event.pointerId);
    this.begun = null;
    if (this.picking) return this.#pick(hit);
    if (event.shiftKey && this.end) {
      void this.#line(this.end, { x, y });
      return;
    }
    this.#begin();
    this.#point(hit, pressureOf(event), x, y);
  }

  /** Events that the browser has put together have no place of their own on the canvas. @param {MouseEvent} event */
  #pixel({ clientX, clientY }) {
    const { left, top } = this.stage.canvas.getBoundingClientRect();
    return [clientX - left, clientY - top];
  }

  /** @param {PointerEvent} event */
  #move(event) {
    if (!this.isOn) return;
    const events = event.getCoalescedEvents?.() ?? [];
    for (const one of this.stroke ? (events.length ? events : [event]) : []) {
      const [x, y] = this.#pixel(one);
      const hit = hitAt(this.stage, x, y);
      if (hit) this.#point(hit, pressureOf(one), x, y);
    }
    const hit = hitAt(this.stage, event.offsetX, event.offsetY);
    if (!hit) return this.ring.hide();
    this.ring.show(hit, this.radius, event.shiftKey ? (this.end?.hit ?? null) : null);
    if (this.stroke) event.stopImmediatePropagation();
  }

  /** @param {PointerEvent} event */
  #up(event) {
    if (!this.stroke) return;
    event.stopImmediatePropagation();
    void this.#finish();
  }

  /** @param {"" | "value" | "stroke"} what */
  pick(what) {
    this.picking = what;
    this.dispatchEvent(new Event("changed"));
  }

  /** @param {Hit} hit */
  #pick({ place, corners }) {
    if (this.picking === "stroke") this.host.picked(place.toArray());
    else {
      const found = corners.reduce((sum, [vertex, weight]) => sum + this.host.value(vertex) * weight, 0);
      this.settings.value = Math.min(1, Math.max(0, found));
    }
    this.pick("");
  }

  /** @param {MouseEvent} event */
  #pressed(event) {
    if (this.isOn && event.target === this.stage.canvas) event.stopPropagation();
  }

  #begin() {
    const { host } = this;
    const step = host.step();
    this.underWay += 1;
    this.stroke = new StrokeUnderWay(host.url(), step, { ...this.settings }, host.stack, host.seen);
  }

  /**
   * @param {Hit} hit
   * @param {number} pressure
   * @param {number} x
   * @param {number} y
   */
  #point(hit, pressure, x, y) {
    const { stroke } = this;
    if (!stroke) return;
    const last = stroke.rows.at(-1);
    const far = last ? Math.hypot(...[0, 1, 2].map((i) => last[i] - hit.place.toArray()[i])) : Infinity;
    if (far < this.radius * this.spacing) return;
    // From one edge to another there is no surface: what follows is a stroke of its own.
    if ((last && far > this.radius * 4 && !this.#isOver(last, hit)) || stroke.isFull) {
      void this.#finish();
      this.#begin();
    }
    this.stroke?.add([...hit.place.toArray(), ...hit.normal.toArray(), this.radius, this.strength, pressure]);
    this.end = { hit, x, y };
    this.stroke?.flush(Promise.all([this.keeping, this.host.ready()])).catch(tell);
  }

  /**
   * Whether the surface is there halfway between two places.
   * @param {number[]} last
   * @param {Hit} hit
   */
  #isOver(last, hit) {
    const { stage } = this;
    const middle = hit.place.clone().set(last[0], last[1], last[2]).add(hit.place).multiplyScalar(0.5);
    const seen = middle.clone().applyMatrix4(stage.mesh.matrixWorld).project(stage.camera);
    const { clientWidth, clientHeight } = stage.canvas;
    const found = hitAt(stage, (seen.x * 0.5 + 0.5) * clientWidth, (0.5 - seen.y * 0.5) * clientHeight);
    return !!found && found.place.distanceTo(middle) < this.radius * 2;
  }

  /** Keeps the stroke that was drawn. */
  async #finish() {
    const { stroke } = this;
    this.stroke = null;
    if (!stroke) return;
    const before = this.keeping;
    const keep = async () => {
      await stroke.flush(before).catch(tell);
      if (stroke.does) await this.host.keep(stroke.step, stroke.whole);
      this.underWay -= 1;
    };
    this.keeping = before.then(keep);
    await this.keeping;
  }

  /**
   * A straight line over the surface between two pixels.
   * @param {{ x: number, y: number }} from
   * @param {{ x: number, y: number }} to
   */
  async #line(from, to) {
    const steps = Math.max(1, Math.ceil(Math.hypot(to.x - from.x, to.y - from.y) / BETWEEN));
    this.#begin();
    for (let at = 0; at <= steps; at += 1) {
      const [x, y] = [from.x + ((to.x - from.x) * at) / steps, from.y + ((to.y - from.y) * at) / steps];
      const hit = hitAt(this.stage, x, y);
      if (hit) this.#point(hit, 1, x, y);
    }
    await this.#finish();
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    if (!this.isOn || !event.shiftKey) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    this.setRadius(this.radius * Math.exp(-(event.deltaY || event.deltaX) / 600));
    this.#move(/** @type {any} */ (event));
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (!this.isOn || event.ctrlKey || event.metaKey || event.altKey) return;
    const way = ARROWS[/** @type {keyof typeof ARROWS} */ (event.key)];
    if (way && !event.shiftKey) {
      this.cursor.x += way[0] * BY;
      this.cursor.y += way[1] * BY;
      this.#atCursor();
    } else if (event.key === "Enter") {
      if (this.begun) void this.#line(this.begun, { ...this.cursor });
      this.begun = this.begun ? null : { ...this.cursor };
      this.#atCursor();
    } else if (event.key === "Escape" && (this.begun || this.picking)) {
      this.begun = null;
      this.pick("");
    } else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }

  #atCursor() {
    const hit = hitAt(this.stage, this.cursor.x, this.cursor.y);
    if (!hit) return this.ring.hide();
    this.ring.show(hit, this.radius, this.begun ? hitAt(this.stage, this.begun.x, this.begun.y) : null);
  }
}

/** @param {PointerEvent} event */
const pressureOf = (event) => (event.pointerType === "pen" ? Math.min(1, Math.max(0, event.pressure)) : 1);
