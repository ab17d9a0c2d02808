/** The overview: the whole graph small, with the part that is seen; a press goes there. */
import { byId } from "moth/base/dom.js";
import { keep, kept } from "moth/base/settings.js";
import { CARD_WIDTH } from "moth/workbench/graph/places/layout.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

const AROUND = 8;

export class Overview {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    /** @type {HTMLCanvasElement} */
    this.canvas = byId("overview");
    this.canvas.hidden = !kept("overview", false);
    this.asked = 0;
    /** From the graph to the canvas: scale and offset. */
    this.scale = { zoom: 1, x: 0, y: 0 };
    pane.view.addEventListener("view", () => this.draw());
    pane.model.addEventListener("state", () => this.draw());
    for (const event of ["moved", "selection"]) pane.pane.addEventListener(event, () => this.draw());
    this.canvas.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      event.stopPropagation();
      this.canvas.setPointerCapture(event.pointerId);
      this.#goTo(event);
    });
    this.canvas.addEventListener("pointermove", (event) => {
      if (this.canvas.hasPointerCapture(event.pointerId)) this.#goTo(event);
    });
  }

  toggle() {
    this.canvas.hidden = !this.canvas.hidden;
    keep("overview", !this.canvas.hidden);
    this.draw();
  }

  /** @param {PointerEvent} event */
  #goTo(event) {
    const box = this.canvas.getBoundingClientRect();
    const { zoom, x, y } = this.scale;
    this.pane.view.centre([(event.clientX - box.left - x) / zoom, (event.clientY - box.top - y) / zoom]);
  }

  draw() {
    if (this.canvas.hidden) return;
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.#draw());
  }

  #draw() {
    const { canvas, pane } = this;
    const box = pane.layer.box(pane.places);
    const context = canvas.getContext("2d");
    if (!box || !context) return;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    const ratio = devicePixelRatio;
    canvas.width = width * ratio;
    canvas.height = height * ratio;
    const zoom = Math.min(
      (width - 2 * AROUND) / (box.right - box.left),
      (height - 2 * AROUND) / (box.bottom - box.top),
      0.25,
    );
    const x = (width - (box.left + box.right) * zoom) / 2;
    const y = (height - (box.top + box.bottom) * zoom) / 2;
    this.scale = { zoom, x, y };
    context.scale(ratio, ratio);
    for (const [id, [left, top]] of pane.places) {
      const problem = pane.model.problemsOf(id).some((p) => p.severity === "error");
      context.fillStyle = problem ? "#a8322d" : pane.selection.has(id) ? "#6a2c5a" : "#8d8390";
      context.fillRect(
        left * zoom + x,
        top * zoom + y,
        Math.max(2, CARD_WIDTH * zoom),
        Math.max(2, pane.layer.height(id) * zoom),
      );
    }
    const { view } = pane;
    context.strokeStyle = "#2b2230";
    context.lineWidth = 1.5;
    context.strokeRect(
      (-view.x / view.zoom) * zoom + x,
      (-view.y / view.zoom) * zoom + y,
      (pane.pane.clientWidth / view.zoom) * zoom,
      (pane.pane.clientHeight / view.zoom) * zoom,
    );
  }
}
