/** A surface in many parts on the stage, of which any can be changed by itself; all have the material of the form. */
import * as THREE from "three";

/**
 * A part of a surface by its place: four corners a face.
 * @typedef {{ at: number[], faces: number, position: Float32Array, second: Float32Array, uv: Int16Array, normal: Int8Array, tangent: Int8Array }} Chunk
 */

/** Two triangles for each four corners, shared by all chunks. */
let triangles = new THREE.BufferAttribute(new Uint32Array(0), 1);

/** @param {number} faces */
function trianglesFor(faces) {
  if (triangles.count < faces * 6) {
    const most = Math.max(4096, 2 ** Math.ceil(Math.log2(faces)));
    const index = new Uint32Array(most * 6);
    for (let face = 0; face < most; face += 1)
      index.set(
        [0, 1, 2, 0, 2, 3].map((corner) => face * 4 + corner),
        face * 6,
      );
    triangles = new THREE.BufferAttribute(index, 1);
  }
  return triangles;
}

/** @param {Chunk} chunk */
function geometryOf({ faces, position, second, uv, normal, tangent }) {
  const made = new THREE.BufferGeometry();
  made.setAttribute("position", new THREE.BufferAttribute(position, 3));
  made.setAttribute("second_uv", new THREE.BufferAttribute(second, 2));
  made.setAttribute("uv", new THREE.BufferAttribute(uv, 2));
  made.setAttribute("normal", new THREE.BufferAttribute(normal, 4, true));
  made.setAttribute("tangent", new THREE.BufferAttribute(tangent, 4, true));
  made.setIndex(trianglesFor(faces));
  made.setDrawRange(0, faces * 6);
  made.computeBoundingBox();
  made.computeBoundingSphere();
  return made;
}

export class Chunks {
  /** @param {import("./stage.js").Stage} stage whose form they are */
  constructor(stage) {
    this.stage = stage;
    /** By their places. @type {Map<string, THREE.Mesh>} */
    this.meshes = new Map();
  }

  /**
   * @param {Chunk[]} chunks those that have changed; all there are where it is the whole
   * @param {boolean} isWhole
   */
  take(chunks, isWhole) {
    if (isWhole) for (const key of this.meshes.keys()) this.#drop(key);
    for (const chunk of chunks) {
      const key = chunk.at.join();
      this.#drop(key);
      if (chunk.faces) this.#add(key, geometryOf(chunk));
    }
    this.#place();
  }

  /** @param {string} key @param {THREE.BufferGeometry} geometry */
  #add(key, geometry) {
    const form = this.stage.mesh;
    const made = new THREE.Mesh(geometry);
    // Whatever the form is drawn with, while another picture is made too.
    Object.defineProperty(made, "material", { get: () => form.material });
    form.add(made);
    this.meshes.set(key, made);
  }

  /** @param {string} key */
  #drop(key) {
    const mesh = this.meshes.get(key);
    if (!mesh) return;
    this.stage.mesh.remove(mesh);
    // The triangles are shared.
    mesh.geometry.setIndex(null);
    mesh.geometry.dispose();
    this.meshes.delete(key);
  }

  /** The form itself has no triangles, but the bounds of them all. */
  #place() {
    const { stage, meshes } = this;
    const bounds = new THREE.Box3();
    for (const { geometry } of meshes.values()) if (geometry.boundingBox) bounds.union(geometry.boundingBox);
    if (bounds.isEmpty()) bounds.set(new THREE.Vector3(), new THREE.Vector3());
    const form = new THREE.BufferGeometry().setAttribute("position", new THREE.BufferAttribute(new Float32Array(0), 3));
    form.boundingBox = bounds;
    form.userData.reach = Math.max(1, bounds.min.length(), bounds.max.length());
    stage.place(form);
  }

  /**
   * Where a ray through a pixel of the canvas meets a face first, in metres, with the direction that it faces.
   * @param {THREE.Ray} ray
   * @returns {{ place: THREE.Vector3, normal: THREE.Vector3 } | null}
   */
  hit(ray) {
    const caster = new THREE.Raycaster(ray.origin, ray.direction);
    this.stage.mesh.updateMatrixWorld();
    const [found] = caster.intersectObjects([...this.meshes.values()], false);
    return found?.face ? { place: found.point, normal: found.face.normal } : null;
  }
}
