/** The ruler above the lanes: seconds, the stretch that repeats, the chosen keys as a bar that scales, and the moment shown. */
import { follow, h } from "moth/base/dom.js";
import { secondsText } from "moth/workbench/model/keys.js";
import { scale } from "moth/workbench/timeline/key_acts.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */

/** Numbers stand at least so many pixels apart. */
const APART = 58;
const STEPS = [1 / 30, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60, 120];

/**
 * @param {TracksPanel} panel
 * @returns {HTMLElement}
 */
export function makeRuler(panel) {
  const { view, stage, model, chosen } = panel;
  const ruler = h("div", {
    class: "ruler",
    title: "Press or drag to go to a moment; drag with Shift for the stretch that repeats",
  });
  ruler.addEventListener("pointerdown", (start) => {
    if (start.button !== 0 || !stage) return;
    start.preventDefault();
    const at = (/** @type {PointerEvent} */ event) => {
      // A stretch is drawn while it is dragged, on a new ruler.
      const shown = panel.body.querySelector(".ruler") ?? ruler;
      const time = Math.min(Math.max(view.timeAt(shown, event.clientX), 0), view.length);
      return model.keys.snaps && !event.altKey ? model.keys.snapped(time) : time;
    };
    const from = at(start);
    if (start.shiftKey) {
      return follow(start, (_x, _y, event) => panel.setStretch(Math.min(from, at(event)), Math.max(from, at(event))));
    }
    panel.pass(from);
    follow(start, (_x, _y, event) => panel.pass(at(event)));
  });
  const width = ruler.clientWidth || panel.laneWidth;
  const least = ((view.to - view.from) / Math.max(width, 1)) * APART;
  const step = STEPS.find((one) => one >= least) ?? STEPS[STEPS.length - 1];
  const first = Math.ceil(view.from / step - 1e-9);
  for (let at = first; at * step <= view.to + 1e-9; at += 1) {
    const mark = h("span", { class: "tick mono" }, secondsText(at * step).replace(" s", ""));
    mark.style.left = view.percent(at * step);
    ruler.append(mark);
  }
  const stretch = panel.stretch;
  if (stretch) {
    const bar = h("span", { class: "stretch", title: "The stretch that repeats" });
    place(bar, panel, stretch.from, stretch.to);
    ruler.append(bar);
  }
  const ends = chosen.ends;
  if (ends && ends[1] > ends[0]) ruler.append(...scaleBar(panel, ruler, ends));
  return ruler;
}

/** @param {HTMLElement} bar @param {TracksPanel} panel @param {number} from @param {number} to */
function place(bar, { view }, from, to) {
  bar.style.left = view.percent(from);
  bar.style.width = `${((to - from) / (view.to - view.from)) * 100}%`;
}

/**
 * A bar over the chosen keys; dragging one of its ends scales them about the other.
 * @param {TracksPanel} panel
 * @param {HTMLElement} ruler
 * @param {[number, number]} ends
 */
function scaleBar(panel, ruler, [first, last]) {
  const bar = h("span", { class: "chosen-bar" });
  place(bar, panel, first, last);
  const handle = (/** @type {boolean} */ isEnd) => {
    const [here, other] = isEnd ? [last, first] : [first, last];
    const element = h("span", { class: "scale-end", title: "Drag to scale the chosen keys" });
    element.style.left = panel.view.percent(here);
    element.addEventListener("pointerdown", (start) => {
      if (start.button !== 0) return;
      start.preventDefault();
      start.stopPropagation();
      let factor = 1;
      follow(
        start,
        (dx) => {
          const to = here + dx * panel.view.perPixel(ruler);
          factor = Math.max((to - other) / (here - other), 0.02);
          panel.preview((time) => other + (time - other) * factor);
          element.style.left = panel.view.percent(other + (here - other) * factor);
        },
        (moved) => {
          if (moved && factor !== 1) void scale(panel, other, factor);
          else panel.refresh();
        },
      );
    });
    return element;
  };
  return [bar, handle(false), handle(true)];
}
