/** What helps the hand: the ground as a grid, the cells a stroke would change as outlines, and a chosen part. */
import * as THREE from "three";

/** @typedef {[number, number, number]} Cell */

const GRID = new THREE.LineBasicMaterial({ color: 0xffffff, transparent: true, opacity: 0.16, depthWrite: false });
const AXES = new THREE.LineBasicMaterial({ color: 0xffffff, transparent: true, opacity: 0.5, depthWrite: false });
const MARK = new THREE.LineBasicMaterial({ color: 0xffffff, depthTest: false });
const UNDER = new THREE.LineBasicMaterial({ color: 0x2b2230, depthTest: false });
const PART = new THREE.LineDashedMaterial({ color: 0xffffff, depthTest: false, dashSize: 0.5, gapSize: 0.3 });
const EDGES = new THREE.EdgesGeometry(new THREE.BoxGeometry(1, 1, 1).translate(0.5, 0.5, 0.5));
/** Of a pixel: the dark edge of a mark is a little larger than it, so that it is seen on white. */
const LARGER = 0.03;

export class Aids {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {number[]} origin the cell whose lowest corner is in the middle of the ground
   */
  constructor(stage, origin) {
    this.stage = stage;
    this.origin = origin;
    this.size = 0.1;
    this.grid = new THREE.LineSegments(new THREE.BufferGeometry(), GRID);
    this.axes = new THREE.LineSegments(new THREE.BufferGeometry(), AXES);
    this.mark = new THREE.LineSegments(EDGES, MARK);
    this.under = new THREE.LineSegments(EDGES, UNDER);
    this.part = new THREE.LineSegments(EDGES.clone(), PART);
    this.part.computeLineDistances();
    for (const [order, one] of [this.under, this.mark, this.part].entries()) {
      one.renderOrder = 10 + order;
      one.visible = false;
    }
    stage.aids.add(this.grid, this.axes, this.under, this.mark, this.part);
    /** The ground that is drawn on, in cells: from, to along x and z. */
    this.ground = { low: [0, 0], high: [0, 0] };
  }

  /** A cell's lowest corner in metres. @param {number[]} cell */
  placeOf(cell) {
    return new THREE.Vector3(...cell.map((part, axis) => (part - this.origin[axis]) * this.size));
  }

  /**
   * The ground about a model.
   * @param {[Cell, Cell] | null} box its cells, lowest and past the highest
   * @param {number} size of a block, metres
   * @param {number} margin cells around it
   * @param {number} side cells along a side of every model
   */
  setGround(box, size, margin, side) {
    this.size = size;
    const low = [0, 2].map((axis) => Math.max(0, Math.min(box?.[0][axis] ?? side, this.origin[axis]) - margin));
    const high = [0, 2].map((axis) => Math.min(side, Math.max(box?.[1][axis] ?? 0, this.origin[axis]) + margin));
    this.ground = { low, high };
    /** @type {number[]} */
    const lines = [];
    /** @type {number[]} */
    const axes = [];
    for (const [across, along] of [
      [0, 1],
      [1, 0],
    ])
      for (let at = low[across]; at <= high[across]; at += 1)
        for (const end of [low[along], high[along]]) {
          const [x, z] = across === 0 ? [at, end] : [end, at];
          const isMiddle = at === this.origin[across ? 2 : 0];
          (isMiddle ? axes : lines).push(...this.placeOf([x, 0, z]).toArray());
        }
    for (const [one, places] of /** @type {const} */ ([
      [this.grid, lines],
      [this.axes, axes],
    ])) {
      one.geometry.dispose();
      one.geometry = new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(places, 3));
    }
    this.stage.invalidate();
  }

  /** Shows which cells are meant; none for null. @param {[Cell, Cell] | null} cells two corners, both included */
  setMark(cells) {
    for (const [one, larger] of /** @type {const} */ ([
      [this.mark, 0],
      [this.under, LARGER],
    ]))
      this.#around(one, cells, larger);
    this.stage.invalidate();
  }

  /** Shows the chosen part; none for null. @param {[Cell, Cell] | null} cells two corners, both included */
  setPart(cells) {
    this.#around(this.part, cells, 0);
    this.part.computeLineDistances();
    this.stage.invalidate();
  }

  /** @param {THREE.LineSegments} one @param {[Cell, Cell] | null} cells @param {number} larger */
  #around(one, cells, larger) {
    one.visible = cells !== null;
    if (!cells) return;
    const low = cells[0].map((part, axis) => Math.min(part, cells[1][axis]) - larger);
    const high = cells[0].map((part, axis) => Math.max(part, cells[1][axis]) + 1 + larger);
    one.position.copy(this.placeOf(low));
    one.scale.fromArray(high.map((part, axis) => (part - low[axis]) * this.size));
  }
}
