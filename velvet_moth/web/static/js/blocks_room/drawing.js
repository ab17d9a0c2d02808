/** Drawing blocks by pointer and by keys: which cells are meant, and what is asked of the server once they are. */
import * as THREE from "three";
import { proposed } from "moth/blocks_room/proposed.js";

/** @typedef {import("./aids.js").Cell} Cell */
/** @typedef {import("../types.d.ts").BlockStroke} BlockStroke */
/** @typedef {[Cell, Cell]} Ends */
/** What a pixel or the keys mean: a cell, and the axis that its face looks along, with its sign. @typedef {{ cell: Cell, axis: number, sign: number }} Target */

/** Ways of using the hand besides those of drawing. */
export const HANDS = /** @type {Record<string, string>} */ ({ pick: "Pick", choose: "Choose a part" });
const ARROWS = /** @type {Record<string, [number, number]>} */ ({
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  ArrowUp: [2, -1],
  ArrowDown: [2, 1],
  PageUp: [1, 1],
  PageDown: [1, -1],
});
/** So many cells of one drag are asked for at once. */
const MOST_AT_ONCE = 400;

/** Events: `changed` where it is set otherwise, `draw` with strokes, `pick` with a cell, `part` where a part is chosen. */
export class Drawing extends EventTarget {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {import("../stage/chunks.js").Chunks} chunks
   * @param {import("./aids.js").Aids} aids
   * @param {import("../types.d.ts").BlockSettings} settings
   */
  constructor(stage, chunks, aids, settings) {
    super();
    this.stage = stage;
    this.chunks = chunks;
    this.aids = aids;
    this.settings = settings;
    this.way = "put";
    this.shape = "single";
    this.entry = 1;
    /** @type {[boolean, boolean, boolean]} */
    this.mirrored = [false, false, false];
    /** Planes of the mirrors, in cells. @type {[number, number, number]} */
    this.about = [settings.side / 2, settings.side / 2, settings.side / 2];
    /** The layers that are drawn in. @type {Ends} */
    this.within = [
      [0, 0, 0],
      [settings.side - 1, settings.side - 1, settings.side - 1],
    ];
    /** The chosen part. @type {Ends | null} */
    this.part = null;
    /** Where the hand is. @type {Target | null} */
    this.target = null;
    /** Where it was pressed; and how far its end is lifted out of that layer. @type {Target | null} */
    this.begun = null;
    this.lift = 0;
    /** The cells of a drag, one by one. @type {Cell[]} */
    this.dragged = [];
    /** Blocks that are shown before they are answered. @type {{ cells: Cell[], entry: number } | null} */
    this.proposal = null;
    const { canvas } = stage;
    const early = { capture: true };
    canvas.addEventListener("pointerdown", (event) => this.#down(event), early);
    canvas.addEventListener("pointermove", (event) => this.#move(event), early);
    canvas.addEventListener("pointerup", (event) => this.#up(event), early);
    canvas.addEventListener("pointercancel", () => this.cancel(), early);
    canvas.addEventListener("pointerleave", () => this.begun || this.#aim(null));
    canvas.addEventListener("wheel", (event) => this.#wheel(event), { capture: true, passive: false });
    canvas.addEventListener("keydown", (event) => this.#key(event), early);
  }

  /** @param {Partial<Pick<Drawing, "way" | "shape" | "entry" | "mirrored" | "about" | "within">>} settings */
  set(settings) {
    Object.assign(this, settings);
    this.cancel();
    this.dispatchEvent(new Event("changed"));
  }

  /** @param {Ends | null} part */
  choose(part) {
    this.part = part;
    this.aids.setPart(part);
    this.dispatchEvent(new Event("part"));
  }

  /** Whether a press puts something beside what it meets. */
  get #isBeside() {
    return this.way === "put" || this.way === "stamp" || this.way === "move";
  }

  get #hasEnds() {
    return this.way === "choose" || (this.way in this.settings.block_ways && this.settings.shapes[this.shape].has_ends);
  }

  /** @param {MouseEvent} event */
  #rayAt({ clientX, clientY }) {
    const { canvas, camera } = this.stage;
    const { left, top, width, height } = canvas.getBoundingClientRect();
    const caster = new THREE.Raycaster();
    camera.updateMatrixWorld();
    caster.setFromCamera(
      new THREE.Vector2(((clientX - left) / width) * 2 - 1, 1 - ((clientY - top) / height) * 2),
      camera,
    );
    return caster.ray;
  }

  /** @param {THREE.Vector3} place @returns {Cell} */
  #cellAt(place) {
    const { origin } = this.settings;
    const { size } = this.aids;
    return /** @type {Cell} */ (place.toArray().map((part, axis) => Math.floor(part / size + 1e-4) + origin[axis]));
  }

  /** What a pixel means: a block or the ground; null beside both. @param {MouseEvent} event @returns {Target | null} */
  #at(event) {
    const ray = this.#rayAt(event);
    const hit = this.chunks.hit(ray);
    if (hit) {
      const normal = hit.normal.toArray();
      const axis = normal.findIndex((part) => Math.abs(part) > 0.5);
      const sign = Math.sign(normal[axis]);
      const inside = hit.place.addScaledVector(hit.normal, -0.5 * this.aids.size);
      const cell = this.#cellAt(inside);
      if (this.#isBeside) cell[axis] += sign;
      return { cell, axis, sign };
    }
    if (!this.#isBeside && this.way !== "choose") return null;
    const place = ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 1, 0), 0), new THREE.Vector3());
    if (!place) return null;
    const cell = this.#cellAt(place);
    const { low, high } = this.aids.ground;
    const isOn = cell[0] >= low[0] && cell[0] < high[0] && cell[2] >= low[1] && cell[2] < high[1];
    cell[1] = this.within[0][1];
    return isOn ? { cell, axis: 1, sign: 1 } : null;
  }

  /** The cell a pixel means in the layer in which the hand was pressed. @param {MouseEvent} event @param {Target} begun */
  #inLayer(event, { cell, axis }) {
    const middle = this.aids.placeOf(cell).addScalar(this.aids.size / 2);
    const normal = new THREE.Vector3().setComponent(axis, 1);
    const ray = this.#rayAt(event);
    const place = ray.intersectPlane(
      new THREE.Plane().setFromNormalAndCoplanarPoint(normal, middle),
      new THREE.Vector3(),
    );
    if (!place) return null;
    const found = this.#cellAt(place);
    found[axis] = cell[axis];
    return /** @type {Cell} */ (found.map((part) => Math.min(this.settings.side - 1, Math.max(0, part))));
  }

  /** @param {Target | null} target */
  #aim(target) {
    this.target = target;
    this.#show();
    this.dispatchEvent(new Event("aim"));
  }

  /** The two ends of what is being drawn. @returns {Ends | null} */
  get ends() {
    const { begun, target } = this;
    if (!target) return null;
    if (!begun) return [target.cell, target.cell];
    const last = /** @type {Cell} */ ([...target.cell]);
    last[begun.axis] += this.lift * begun.sign;
    return [begun.cell, this.#hasEnds ? last : begun.cell];
  }

  #show() {
    const { ends } = this;
    if (!ends || this.shape !== "ball" || !this.begun || this.way === "choose") return this.aids.setMark(ends);
    const [middle, end] = ends;
    const radius = Math.floor(Math.hypot(...end.map((part, axis) => part - middle[axis])) + 0.5);
    this.aids.setMark([
      /** @type {Cell} */ (middle.map((part) => part - radius)),
      /** @type {Cell} */ (middle.map((part) => part + radius)),
    ]);
  }

  /** @param {PointerEvent} event */
  #down(event) {
    if (event.button !== 0) return;
    const target = this.#at(event);
    // Beside the model and the ground the eye is turned.
    if (!target) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    this.stage.canvas.focus();
    this.stage.canvas.setPointerCapture(event.pointerId);
    this.#begin(target);
  }

  /** @param {Target} target */
  #begin(target) {
    this.begun = target;
    this.lift = 0;
    this.dragged = [target.cell];
    this.#aim(target);
    this.#propose();
  }

  /** Shows single blocks before the server has answered. */
  #propose() {
    if (this.shape !== "single" || (this.way !== "put" && this.way !== "recolour")) return;
    this.proposal = { cells: this.dragged, entry: this.entry };
    this.repropose();
  }

  /** Shows what is proposed again, where another surface was taken over meanwhile. */
  repropose() {
    if (!this.proposal) return;
    const { cells, entry } = this.proposal;
    this.chunks.take([proposed(cells, entry, this.aids.size, this.settings)], false);
  }

  /** What was asked for is answered. */
  settle() {
    if (this.begun || !this.proposal) return;
    this.proposal = { ...this.proposal, cells: [] };
    this.repropose();
    this.proposal = null;
  }

  /** @param {PointerEvent} event */
  #move(event) {
    const { begun } = this;
    if (!begun) return event.buttons ? undefined : this.#aim(this.#at(event));
    event.stopImmediatePropagation();
    const cell = this.#inLayer(event, begun);
    if (!cell) return;
    this.#aim({ ...begun, cell });
    const last = this.dragged[this.dragged.length - 1];
    if (this.#hasEnds || cell.join() === last.join() || this.dragged.length === MOST_AT_ONCE) return;
    this.dragged.push(cell);
    this.#propose();
  }

  /** @param {PointerEvent} event */
  #up(event) {
    if (!this.begun) return;
    event.stopImmediatePropagation();
    this.#finish();
  }

  #finish() {
    const { ends } = this;
    const cells = this.dragged;
    this.#stop();
    if (!ends) return;
    if (this.way === "pick") this.dispatchEvent(new CustomEvent("pick", { detail: cells[0] }));
    else if (this.way === "choose") this.choose(ends);
    else if (this.way in this.settings.block_ways)
      this.dispatchEvent(new CustomEvent("draw", { detail: this.#strokes(ends, cells) }));
    else this.dispatchEvent(new CustomEvent("place", { detail: { way: this.way, to: ends[0] } }));
  }

  /** Stops what is being drawn, without drawing it. */
  cancel() {
    const wasDrawing = !!this.begun;
    this.#stop();
    if (wasDrawing) this.settle();
  }

  #stop() {
    this.begun = null;
    this.dragged = [];
    this.lift = 0;
    this.#show();
  }

  /** @param {Ends} ends @param {Cell[]} cells @returns {BlockStroke[]} */
  #strokes([first, last], cells) {
    const { shape, way, entry, mirrored, about, within } = this;
    const common = { shape, way, entry, mirrored, about, low: within[0], high: within[1] };
    const made = /** @param {Cell} from @param {Cell} to */ (from, to) =>
      /** @type {BlockStroke} */ (/** @type {unknown} */ ({ ...common, first: from, last: to }));
    return this.shape === "single" ? cells.map((cell) => made(cell, cell)) : [made(first, last)];
  }

  /** The wheel lifts the other end of what is being drawn. @param {WheelEvent} event */
  #wheel(event) {
    if (!this.begun || !this.#hasEnds) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    this.lift -= Math.sign(event.deltaY);
    this.#show();
    this.dispatchEvent(new Event("aim"));
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = event.shiftKey ? undefined : ARROWS[event.key];
    if (step) this.#step(...step);
    else if (event.key === "Enter") this.#enter();
    else if (event.key === "Escape" && this.begun) this.cancel();
    else if (event.key === "Escape" && this.part) this.choose(null);
    else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }

  /** @param {number} axis @param {number} by */
  #step(axis, by) {
    const { origin, side } = this.settings;
    const from = this.target ?? { cell: /** @type {Cell} */ ([...origin]), axis: 1, sign: 1 };
    const cell = /** @type {Cell} */ ([...from.cell]);
    if (this.target) cell[axis] = Math.min(side - 1, Math.max(0, cell[axis] + by));
    this.#aim({ ...from, cell });
  }

  /** Enter begins what has two ends, and draws it when it is pressed again. */
  #enter() {
    if (!this.target) return this.#step(0, 0);
    if (!this.begun) this.#begin(this.target);
    else return this.#finish();
    if (!this.#hasEnds) this.#finish();
  }
}
