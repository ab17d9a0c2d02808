/** The seams between graph, dock, stage and parameters: dragged or moved by keys, kept for each person. */
import { byId, h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { keep, kept } from "moth/base/settings.js";

/** How far a key moves a seam, in pixels. */
const STEP = 16;

/**
 * A seam: the property that holds the size beyond it, the area it bounds, where it is drawn, and whether it stands upright. A
 * drag to the left or upwards makes that area larger.
 * @typedef {{ name: string, words: string, area: string, host: string, isUpright: boolean, least: number, most: () => number }} Seam
 */
/** @type {Seam[]} */
const SEAMS = [
  {
    name: "dock-width",
    words: "Width of the dock",
    area: "dock",
    // Left of the dock's pins, which a wire must reach.
    host: "graph-pane",
    isUpright: true,
    least: 150,
    most: () => 380,
  },
  {
    name: "stage-width",
    words: "Width of the stage",
    area: "stage-area",
    host: "stage-area",
    isUpright: true,
    least: 300,
    most: () => innerWidth * 0.65,
  },
  {
    name: "parameters-height",
    words: "Height of the parameters",
    area: "parameters-area",
    host: "parameters-area",
    isUpright: false,
    least: 80,
    most: () => innerHeight * 0.7,
  },
];

/** @returns {Record<string, number>} */
const sizes = () => kept("seams", {});

/** Puts a seam at each edge, where it was left. */
export function sew() {
  const bench = /** @type {HTMLElement} */ (document.querySelector(".bench"));
  for (const seam of SEAMS) {
    const element = h("div", {
      class: `seam ${seam.isUpright ? "upright" : ""}`,
      role: "separator",
      tabindex: 0,
      "aria-orientation": seam.isUpright ? "vertical" : "horizontal",
      "aria-label": seam.words,
      title: `${seam.words}: drag; press twice for the first one`,
    });
    byId(seam.host).append(element);
    const now = () => byId(seam.area)[seam.isUpright ? "offsetWidth" : "offsetHeight"];
    /** @param {number | null} size null for the first one */
    const set = (size) => {
      const found = size === null ? null : Math.round(Math.min(seam.most(), Math.max(seam.least, size)));
      if (found === null) bench.style.removeProperty(`--${seam.name}`);
      else bench.style.setProperty(`--${seam.name}`, `${found}px`);
      element.setAttribute("aria-valuenow", String(found ?? now()));
      const others = Object.entries(sizes()).filter(([name]) => name !== seam.name);
      keep("seams", Object.fromEntries(found === null ? others : [...others, [seam.name, found]]));
    };
    element.setAttribute("aria-valuenow", String(now()));
    element.setAttribute("aria-valuemin", String(seam.least));
    const before = sizes()[seam.name];
    if (before) set(before);
    listen(element, seam, now, set);
  }
}

/**
 * @param {HTMLElement} element
 * @param {Seam} seam
 * @param {() => number} now
 * @param {(size: number | null) => void} set
 */
function listen(element, { isUpright }, now, set) {
  element.addEventListener("pointerdown", (start) => {
    if (start.button !== 0) return;
    start.preventDefault();
    start.stopPropagation();
    element.focus();
    element.setPointerCapture(start.pointerId);
    const from = now();
    const move = (/** @type {PointerEvent} */ event) =>
      set(from - (isUpright ? event.clientX - start.clientX : event.clientY - start.clientY));
    element.addEventListener("pointermove", move);
    element.addEventListener("lostpointercapture", () => element.removeEventListener("pointermove", move), {
      once: true,
    });
  });
  element.addEventListener("dblclick", () => set(null));
  element.addEventListener("keydown", (event) => {
    const [larger, smaller] = isUpright ? ["ArrowLeft", "ArrowRight"] : ["ArrowUp", "ArrowDown"];
    if (event.key === larger) set(now() + STEP);
    else if (event.key === smaller) set(now() - STEP);
    else if (event.key === "Home") set(null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
}

/** The stage alone fills the window, or stands in its place again. */
export function toggleStageAlone() {
  const isAlone = () => document.body.classList.contains("stage-alone");
  document.body.classList.toggle("stage-alone");
  if (isAlone()) opened(isAlone, toggleStageAlone);
  byId("stage").focus({ preventScroll: true });
}
