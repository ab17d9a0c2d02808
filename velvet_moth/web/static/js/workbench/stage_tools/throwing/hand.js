/** Throwing by hand on the stage: press where it should land, drag the way it flies; the longer, the harder. */
import * as THREE from "three";
import { svg } from "moth/base/dom.js";

/** A press without a drag throws straight ahead, with the strength that is set; from so many pixels on it is a drag. */
const DRAG = 6;
/** So long a drag throws as hard as can be, in pixels; and by so many degrees to the side at most. */
const [HARDEST, SLANTED] = [180, 70];

export class Hand {
  /**
   * @param {import("../../../stage/stage.js").Stage} stage
   * @param {import("./thrown.js").Thrown} thrown
   * @param {SVGSVGElement} lines where the drag is drawn
   */
  constructor(stage, thrown, lines) {
    this.stage = stage;
    this.thrown = thrown;
    this.lines = lines;
    this.isOn = false;
    /** Where it was pressed, in pixels of the canvas. @type {{ x: number, y: number } | null} */
    this.pressed = null;
    const early = { capture: true };
    const { canvas } = stage;
    canvas.addEventListener("pointerdown", (event) => this.#down(event), early);
    canvas.addEventListener("pointermove", (event) => this.#move(event), early);
    canvas.addEventListener("pointerup", (event) => this.#up(event), early);
    canvas.addEventListener("pointercancel", () => this.#end(), early);
    canvas.parentElement?.addEventListener(
      "click",
      (event) => this.isOn && event.target === canvas && event.stopImmediatePropagation(),
      early,
    );
    canvas.addEventListener("keydown", (event) => {
      if (!this.isOn || event.key !== "Enter") return;
      this.throwAhead();
      event.preventDefault();
      event.stopPropagation();
    });
  }

  /** @param {boolean} isOn */
  put(isOn) {
    this.isOn = isOn;
    this.#end();
    this.stage.canvas.classList.toggle("throwing", isOn);
  }

  /** At the middle of the picture. */
  throwAhead() {
    const { clientWidth, clientHeight } = this.stage.canvas;
    return this.thrown.throwAt(this.#aim(clientWidth / 2, clientHeight / 2));
  }

  /** @param {number} x pixels of the canvas @param {number} y @param {number} [across] of the drag @param {number} [down] */
  #aim(x, y, across = 0, down = 0) {
    const { camera, canvas } = this.stage;
    camera.updateMatrixWorld();
    const { clientWidth: width, clientHeight: height } = canvas;
    const towards = new THREE.Vector3((x / width) * 2 - 1, 1 - (y / height) * 2, 0.5)
      .unproject(camera)
      .sub(camera.position)
      .normalize();
    const aim = { eye: camera.position.toArray(), towards: towards.toArray() };
    const long = Math.hypot(across, down);
    if (long < DRAG) return aim;
    const [right, up] = [new THREE.Vector3(), new THREE.Vector3()];
    camera.matrixWorld.extractBasis(right, up, new THREE.Vector3());
    const aside = right.multiplyScalar(across / long).addScaledVector(up, -down / long);
    const share = Math.min(long / HARDEST, 1);
    return { ...aim, aside: aside.toArray(), slant: share * SLANTED, strength: Number(share.toFixed(3)) };
  }

  /** @param {PointerEvent} event */
  #down(event) {
    if (!this.isOn || event.button !== 0 || event.altKey) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    this.stage.canvas.focus();
    this.stage.canvas.setPointerCapture(event.pointerId);
    this.pressed = { x: event.offsetX, y: event.offsetY };
  }

  /** @param {PointerEvent} event */
  #move({ offsetX, offsetY }) {
    if (!this.pressed) return;
    const { x, y } = this.pressed;
    const long = Math.hypot(offsetX - x, offsetY - y);
    const share = Math.min(long / HARDEST, 1);
    const line = svg("line", { class: "throw-drag", x1: x, y1: y, x2: offsetX, y2: offsetY });
    const words = svg("text", { class: "throw-words", x: offsetX + 8, y: offsetY - 6 });
    words.textContent = long < DRAG ? "" : `strength ${share.toFixed(2)}`;
    this.lines.replaceChildren(line, words);
  }

  /** @param {PointerEvent} event */
  #up({ offsetX, offsetY }) {
    if (!this.pressed) return;
    const { x, y } = this.pressed;
    this.#end();
    void this.thrown.throwAt(this.#aim(x, y, offsetX - x, offsetY - y));
  }

  #end() {
    this.pressed = null;
    this.lines.replaceChildren();
  }
}
