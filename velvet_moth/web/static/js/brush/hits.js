/** Where a ray through a pixel of the stage meets the mesh. */
import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";

/**
 * In the mesh's own metres; with the vertices of the triangle, and how much each counts there.
 * @typedef {{ place: THREE.Vector3, normal: THREE.Vector3, corners: [number, number][] }} Hit
 */

/** The tree of each geometry; its triangles stay in their order. @type {WeakMap<THREE.BufferGeometry, MeshBVH>} */
const trees = new WeakMap();
const ray = new THREE.Raycaster();
const [inverse, corner, across] = [new THREE.Matrix4(), new THREE.Vector3(), new THREE.Vector3()];
const triangle = new THREE.Triangle();

/** @param {THREE.BufferGeometry} geometry */
function treeOf(geometry) {
  let found = trees.get(geometry);
  if (!found) trees.set(geometry, (found = new MeshBVH(geometry, { indirect: true })));
  return found;
}

/**
 * @param {import("../stage/stage.js").Stage} stage
 * @param {number} x pixels of the page from the canvas's left
 * @param {number} y pixels of the page from its top
 * @returns {Hit | null}
 */
export function hitAt({ mesh, camera, canvas }, x, y) {
  const { geometry } = mesh;
  if (!geometry.index || !mesh.visible) return null;
  camera.updateMatrixWorld();
  mesh.updateMatrixWorld();
  ray.setFromCamera(new THREE.Vector2((x / canvas.clientWidth) * 2 - 1, 1 - (y / canvas.clientHeight) * 2), camera);
  const found = treeOf(geometry).raycastFirst(ray.ray.clone().applyMatrix4(inverse.copy(mesh.matrixWorld).invert()), 2);
  if (!found?.face) return null;
  const { a, b, c } = found.face;
  const { position, normal } = geometry.attributes;
  triangle.setFromAttributeAndIndices(position, a, b, c);
  const weights = triangle.getBarycoord(found.point, across) ?? across.set(1, 0, 0);
  const facing = new THREE.Vector3();
  const corners = /** @type {[number, number][]} */ ([
    [a, weights.x],
    [b, weights.y],
    [c, weights.z],
  ]);
  for (const [at, weight] of corners) facing.addScaledVector(corner.fromBufferAttribute(normal, at), weight);
  return { place: found.point.clone(), normal: facing.normalize(), corners };
}
