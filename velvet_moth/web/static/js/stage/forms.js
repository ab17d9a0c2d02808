/** Forms, as geometry of the stage. */
import * as THREE from "three";
import { send } from "moth/base/api.js";

/** A form without the number of cells it is made of. @param {string} key such as "plane:24" */
export const kindOf = (key) => key.split(":")[0];

/** @type {Map<string, Promise<THREE.BufferGeometry>>} */
const loaded = new Map();

/**
 * @param {string} address
 * @returns {Promise<THREE.BufferGeometry>}
 */
export async function loadGeometry(address) {
  const response = await send(address);
  const vertices = Number(response.headers.get("X-Vertices"));
  const triangles = Number(response.headers.get("X-Triangles"));
  const bytes = await response.arrayBuffer();
  const geometry = new THREE.BufferGeometry();
  let at = 0;
  for (const [name, width] of /** @type {[string, number][]} */ ([
    ["position", 3],
    ["normal", 3],
    ["tangent", 4],
    ["uv", 2],
    ["second_uv", 2],
    ["colour", 4],
  ])) {
    geometry.setAttribute(name, new THREE.BufferAttribute(new Float32Array(bytes, at, vertices * width), width));
    at += vertices * width * 4;
  }
  geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(bytes, at, triangles * 3), 1));
  geometry.computeBoundingBox();
  geometry.userData.reach = Number(response.headers.get("X-Reach"));
  geometry.userData.isClosed = response.headers.get("X-Closed") === "yes";
  return geometry;
}

/** The geometry of what stands in the place of a form. @param {import("../types.d.ts").MeshRead} mesh */
export const geometryAddress = ({ id, drawn }) => `/api/meshes/${encodeURIComponent(id)}/geometry/${drawn}`;

/**
 * @param {string} key
 * @param {string} [address] of another geometry in its place
 * @returns {Promise<THREE.BufferGeometry>}
 */
export function formGeometry(key, address = `/api/stage/forms/${encodeURIComponent(key)}`) {
  let found = loaded.get(address);
  if (!found) {
    found = loadGeometry(address);
    found.catch(() => loaded.delete(address));
    loaded.set(address, found);
  }
  return found;
}
