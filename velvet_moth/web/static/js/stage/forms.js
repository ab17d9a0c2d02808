/** Forms, as geometry of the stage. */
import * as THREE from "three";
import { send } from "moth/base/api.js";
import { coarserForm } from "moth/stage/levels.js";

/** A form without the number of cells it is made of. @param {string} key such as "plane:24" */
export const kindOf = (key) => key.split(":")[0];

/** Those used last, the oldest first. @type {Map<string, Promise<THREE.BufferGeometry>>} */
const loaded = new Map();
/** A mesh may take a hundred megabytes, and a new version of it as much again. */
const MOST = 12;

/** Whether a shader reads what is the same all over a triangle. @param {string} fragment */
export const readsFaces = (fragment) => /\bv_face\b/.test(fragment);

/** What a vertex has of an attribute that its mesh does not carry. */
export const IDLE_ATTRIBUTES = { second_colour: [1, 1, 1, 1] };

/**
 * @param {string} address
 * @param {boolean} [hasFaces] with what is the same all over each triangle, which takes more vertices
 * @returns {Promise<THREE.BufferGeometry>}
 */
export async function loadGeometry(address, hasFaces = false) {
  const response = await send(hasFaces ? `${address}?faces=true` : address);
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
    ...(response.headers.get("X-Second") === "yes" ? [["second_colour", 4]] : []),
    ...(hasFaces ? [["face", 4]] : []),
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

/**
 * The geometry of what stands in the place of a form; from an address of its own where it has one.
 * @param {import("../types.d.ts").MeshRead & { address?: string }} mesh
 */
export const geometryAddress = ({ id, drawn, address }) =>
  address ?? `/api/meshes/${encodeURIComponent(id)}/geometry/${drawn}`;

/**
 * @param {string} key
 * @param {boolean} hasFaces
 * @param {string} [address] of another geometry in its place
 * @returns {Promise<THREE.BufferGeometry>}
 */
export function formGeometry(key, hasFaces, address = `/api/stage/forms/${encodeURIComponent(key)}`) {
  const name = `${address} ${hasFaces}`;
  let found = loaded.get(name);
  loaded.delete(name);
  if (!found) {
    found = loadGeometry(address, hasFaces);
    found.catch(() => loaded.delete(name));
  }
  loaded.set(name, found);
  for (const [other, old] of loaded) {
    if (loaded.size <= MOST) break;
    loaded.delete(other);
    old.then(
      (geometry) => geometry.dispose(),
      () => {},
    );
  }
  return found;
}

/**
 * Coarser forms in the place of one, by how many triangles all its instances have.
 * @param {string} key
 * @param {import("../types.d.ts").StageSettings} settings
 * @param {boolean} hasFaces
 * @returns {import("./instances.js").Coarser}
 */
export const coarserForms = (key, settings, hasFaces) => (triangles) => {
  const coarser = coarserForm(key, settings.cells[kindOf(key)], triangles);
  return coarser === key ? null : { key: coarser, fetch: () => formGeometry(coarser, hasFaces) };
};
