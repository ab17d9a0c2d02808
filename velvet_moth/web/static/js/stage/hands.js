/** Hands on the stage: orbiting and panning the eye, turning the light, by pointer and by keys. */
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

const DEGREES = Math.PI / 180;

export class Hands {
  /** @param {import("./stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    const { canvas, camera } = stage;
    this.controls = new OrbitControls(camera, canvas);
    this.controls.enableDamping = false;
    this.reach(0);
    this.controls.mouseButtons = { LEFT: THREE.MOUSE.ROTATE, MIDDLE: THREE.MOUSE.PAN, RIGHT: null };
    this.controls.addEventListener("change", () => stage.moved());
    canvas.addEventListener("contextmenu", (event) => event.preventDefault());
    // On the way down, before the orbit sees it: the right button, or any button in light mode, turns the light.
    canvas.addEventListener("pointerdown", (event) => this.#lightDrag(event), { capture: true });
    canvas.addEventListener("keydown", (event) => this.#key(event));
  }

  /**
   * How near and how far the eye goes, and from where to where it sees.
   * @param {number} distance in metres, from where what is looked at is seen whole; 0 for a form
   * @param {number} [farther] how many times as far as usual the eye may go
   */
  reach(distance, farther = 1) {
    const { controls } = this;
    const { camera } = this.stage;
    controls.minDistance = distance ? distance * 0.1 : 1.5;
    controls.maxDistance = distance ? distance * 5 * farther : 14;
    camera.near = distance ? Math.min(0.05, distance * 0.01) : 0.05;
    camera.far = Math.max(60, distance * 12 * farther);
    camera.updateProjectionMatrix();
  }

  /** @param {PointerEvent} event */
  #lightDrag(event) {
    if (event.button !== 2 && !(this.stage.lightMode && event.button === 0)) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    const { canvas } = this.stage;
    canvas.focus();
    canvas.setPointerCapture(event.pointerId);
    /** @param {PointerEvent} move */
    const turn = (move) => this.stage.lighting.turn(move.movementX * 0.6, -move.movementY * 0.4);
    const end = () => {
      canvas.removeEventListener("pointermove", turn);
      canvas.removeEventListener("pointerup", end);
      canvas.removeEventListener("pointercancel", end);
    };
    canvas.addEventListener("pointermove", turn);
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", end);
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    const step = steps[/** @type {keyof typeof steps} */ (event.key)];
    if (step && event.shiftKey) this.stage.lighting.turn(step[0] * 6, step[1] * 4);
    else if (step) this.orbit(step[0] * 6, step[1] * 5, 1);
    else if (event.key === "+" || event.key === "=") this.orbit(0, 0, 0.9);
    else if (event.key === "-") this.orbit(0, 0, 1.1);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /**
   * @param {number} turn degrees
   * @param {number} tilt degrees
   * @param {number} nearer factor on the distance
   */
  orbit(turn, tilt, nearer) {
    const { camera } = this.stage;
    const { target } = this.controls;
    const at = new THREE.Spherical().setFromVector3(camera.position.clone().sub(target));
    at.theta += turn * DEGREES;
    at.phi = Math.min(Math.PI - 0.02, Math.max(0.02, at.phi - tilt * DEGREES));
    at.radius = Math.min(14, Math.max(1.5, at.radius * nearer));
    camera.position.setFromSpherical(at).add(target);
    this.controls.update();
    this.stage.moved();
  }
}
