/** The circle of the brush on the surface, and the line that is about to be drawn, over the stage. */
import * as THREE from "three";
import { svg } from "moth/base/dom.js";
import { seenAt } from "moth/stage/eye.js";

/** @typedef {import("./hits.js").Hit} Hit */

const CORNERS = 40;

export class Ring {
  /** @param {import("../stage/stage.js").Stage} stage */
  constructor(stage) {
    this.stage = stage;
    this.under = svg("polygon", { class: "under" });
    this.circle = svg("polygon", {});
    this.line = svg("line", {});
    this.place = svg("svg", { class: "brush-ring", "aria-hidden": "true" });
    this.place.append(this.under, this.circle, this.line);
    stage.canvas.after(this.place);
    this.hide();
  }

  hide() {
    this.place.style.display = "none";
  }

  /**
   * @param {Hit} hit
   * @param {number} radius metres
   * @param {Hit | null} from where a straight line would begin
   */
  show({ place, normal }, radius, from = null) {
    const { stage } = this;
    const { offsetLeft, offsetTop, clientWidth, clientHeight } = stage.canvas;
    Object.assign(this.place.style, {
      display: "",
      left: `${offsetLeft}px`,
      top: `${offsetTop}px`,
      width: `${clientWidth}px`,
      height: `${clientHeight}px`,
    });
    const first = new THREE.Vector3(Math.abs(normal.x) < 0.7 ? 1 : 0, Math.abs(normal.x) < 0.7 ? 0 : 1, 0);
    first.cross(normal).normalize();
    const second = normal.clone().cross(first);
    const seen = (/** @type {THREE.Vector3} */ at) =>
      seenAt(stage, at.clone().applyMatrix4(stage.mesh.matrixWorld).toArray());
    const points = Array.from({ length: CORNERS }, (_, at) => {
      const turn = (at / CORNERS) * 2 * Math.PI;
      const rim = place.clone().addScaledVector(first, Math.cos(turn) * radius);
      const found = seen(rim.addScaledVector(second, Math.sin(turn) * radius));
      return found ? `${found.x.toFixed(1)},${found.y.toFixed(1)}` : "";
    }).join(" ");
    for (const one of [this.under, this.circle]) one.setAttribute("points", points);
    const ends = from && [seen(from.place), seen(place)];
    this.line.style.display = ends?.every(Boolean) ? "" : "none";
    if (!ends) return;
    for (const [number, end] of ends.entries()) {
      if (!end) continue;
      this.line.setAttribute(`x${number + 1}`, String(end.x));
      this.line.setAttribute(`y${number + 1}`, String(end.y));
    }
  }
}
