/** The stage's eye in the numbers of the core: degrees and metres; and places of the world on its picture. */
import * as THREE from "three";

/** @typedef {import("./stage.js").Stage} Stage */

const DEGREES = Math.PI / 180;

/**
 * @param {number} turn degrees around
 * @param {number} tilt degrees up
 */
export const direction = (turn, tilt) =>
  new THREE.Vector3(
    Math.cos(tilt * DEGREES) * Math.sin(turn * DEGREES),
    Math.sin(tilt * DEGREES),
    Math.cos(tilt * DEGREES) * Math.cos(turn * DEGREES),
  );

/**
 * The scene as the core takes it: form, rig, eye, light and moment, in degrees, metres and seconds.
 * @param {Stage} stage
 */
export function viewOf(stage) {
  const { controls, camera, lighting, uniforms } = stage;
  const { target } = controls;
  const at = camera.position.clone().sub(target);
  const distance = at.length();
  return {
    form: stage.form,
    rig: lighting.rig,
    backdrop: stage.backdrop.key,
    turn: (Math.atan2(at.x, at.z) / DEGREES).toFixed(4),
    tilt: (Math.asin(at.y / distance) / DEGREES).toFixed(4),
    distance: distance.toFixed(5),
    field: String(camera.fov),
    target_x: target.x.toFixed(5),
    target_y: target.y.toFixed(5),
    target_z: target.z.toFixed(5),
    light_turn: lighting.angles.turn.toFixed(3),
    light_tilt: lighting.angles.tilt.toFixed(3),
    time: String(stage.time),
    exposure: String(uniforms.exposure.value),
    level: String(stage.levelDrawn),
  };
}

/**
 * The view with one of its pixels, as the core takes it.
 * @param {Stage} stage
 * @param {number} x pixels of the page from the canvas's left
 * @param {number} y pixels of the page from its top
 */
export function viewAt(stage, x, y) {
  const { clientWidth: width, clientHeight: height } = stage.canvas;
  const [column, row] = [Math.floor(x), height - 1 - Math.floor(y)];
  const pixel = Object.entries({ width, height, column, row }).map(([name, value]) => [name, String(value)]);
  return { ...viewOf(stage), ...Object.fromEntries(pixel) };
}

/**
 * Where a place in the world is seen, in pixels of the page from the canvas's upper left corner; null behind the eye.
 * @param {Stage} stage
 * @param {number[]} place
 */
export function seenAt(stage, [x, y, z]) {
  const at = new THREE.Vector3(x, y, z).project(stage.camera);
  if (at.z > 1) return null;
  const { clientWidth: width, clientHeight: height } = stage.canvas;
  return { x: (at.x * 0.5 + 0.5) * width, y: (0.5 - at.y * 0.5) * height };
}
