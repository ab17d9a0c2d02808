/** Thin lines over the mesh on the stage, darker where they begin. */
import * as THREE from "three";

/** What the stage's eye sees, and the sun does not: lines cast no shadow. */
const EYE_ONLY = 1;
const [BEGIN, END] = [
  [0.03, 0.05, 0.07],
  [0.96, 0.52, 0.08],
];
/** How far above the surface they are drawn, as a share of the size of the mesh. */
const LIFT = 0.0015;
/** So many hairs stand along the diagonal of the mesh. */
const HAIRS = 56;
const [place, normal, tangent, across] = Array.from({ length: 4 }, () => new THREE.Vector3());

export class Lines {
  /** @param {import("../stage/stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    const material = new THREE.LineBasicMaterial({ vertexColors: true, toneMapped: false });
    this.segments = new THREE.LineSegments(new THREE.BufferGeometry(), material);
    this.segments.frustumCulled = false;
    this.segments.layers.set(EYE_ONLY);
    stage.camera.layers.enable(EYE_ONLY);
    /** The vertices that have a hair, for each geometry. @type {WeakMap<THREE.BufferGeometry, Uint32Array>} */
    this.roots = new WeakMap();
  }

  hide() {
    this.segments.removeFromParent();
    this.stage.invalidate();
  }

  /**
   * Shows lines, each of as many places.
   * @param {Float32Array} places three numbers each
   * @param {number} each how many places a line has
   */
  show(places, each) {
    const count = places.length / 3 / each;
    const pieces = each - 1;
    const at = new Float32Array(count * pieces * 6);
    const colours = new Float32Array(count * pieces * 6);
    for (let line = 0; line < count; line += 1)
      for (let piece = 0; piece < pieces; piece += 1) {
        const to = (line * pieces + piece) * 6;
        const from = (line * each + piece) * 3;
        at.set(places.subarray(from, from + 6), to);
        for (let end = 0; end < 2; end += 1) {
          const share = (piece + end) / pieces;
          for (let part = 0; part < 3; part += 1)
            colours[to + end * 3 + part] = BEGIN[part] + (END[part] - BEGIN[part]) * share;
        }
      }
    const { geometry } = this.segments;
    geometry.setAttribute("position", new THREE.BufferAttribute(at, 3));
    geometry.setAttribute("color", new THREE.BufferAttribute(colours, 3));
    this.stage.mesh.add(this.segments);
    this.stage.invalidate();
  }

  /** How large the mesh is, metres. */
  get size() {
    const { boundingBox: box } = this.stage.mesh.geometry;
    return box ? box.min.distanceTo(box.max) : 1;
  }

  /**
   * One vertex of each small cube of space that the surface runs through.
   * @param {number} count only the first so many have directions
   */
  #roots(count) {
    const { geometry } = this.stage.mesh;
    let found = this.roots.get(geometry);
    if (found) return found;
    const { position } = geometry.attributes;
    const side = this.size / HAIRS;
    /** @type {Map<string, number>} */
    const cells = new Map();
    for (let vertex = 0; vertex < count; vertex += 1) {
      place.fromBufferAttribute(position, vertex).divideScalar(side).floor();
      const key = `${place.x} ${place.y} ${place.z}`;
      if (!cells.has(key)) cells.set(key, vertex);
    }
    found = new Uint32Array(cells.values());
    this.roots.set(geometry, found);
    return found;
  }

  /**
   * A hair along the direction at many a vertex, as long as it is fast.
   * @param {Float32Array} numbers along U and V, 0..1, and the speed, for each vertex
   */
  hairs(numbers) {
    const { geometry } = this.stage.mesh;
    const { position, normal: normals, tangent: tangents } = geometry.attributes;
    const roots = this.#roots(numbers.length / 3);
    const [length, lift] = [(this.size / HAIRS) * 1.3, this.size * LIFT];
    const places = new Float32Array(roots.length * 6);
    for (const [at, vertex] of roots.entries()) {
      normal.fromBufferAttribute(normals, vertex);
      tangent.fromBufferAttribute(tangents, vertex);
      across.crossVectors(normal, tangent).multiplyScalar(tangents.getW(vertex) < 0 ? -1 : 1);
      place
        .fromBufferAttribute(position, vertex)
        .addScaledVector(normal, lift)
        .toArray(places, at * 6);
      place
        .addScaledVector(tangent, (numbers[vertex * 3] * 2 - 1) * length)
        .addScaledVector(across, (numbers[vertex * 3 + 1] * 2 - 1) * length)
        .toArray(places, at * 6 + 3);
    }
    this.show(places, 2);
  }
}
