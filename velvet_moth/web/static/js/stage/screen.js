/** A triangle over the whole picture, for what is painted pixel by pixel without a form. */
import * as THREE from "three";

const corners = new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3);
/** Shared by all of them, and so never given up. */
const triangle = new THREE.BufferGeometry().setAttribute("position", corners);

/** @param {THREE.RawShaderMaterial} material whose vertex shader takes positions as places of the screen, -1..1 */
export function onScreen(material) {
  const made = new THREE.Mesh(triangle, material);
  made.frustumCulled = false;
  return made;
}
