/** Lists of stops edited in place: gradients as a bar of colours, curves as a line through points. */
import { toHex } from "moth/fields/colour.js";
import { colourPicker } from "moth/fields/colour_picker.js";
import { popover } from "moth/base/dialogs.js";
import { h, svg } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";

const MOST = 8;

/**
 * One side of a curve: its name, the ends that are shown, and those that its numbers may have.
 * @typedef {{ name: string, unit: string, from: number, to: number, low: number, high: number }} Side
 */
/**
 * The sides of a curve, how it goes from point to point, and whether the number and heights of its points are given.
 * @typedef {{ across: Side, up: Side, between: string, isFixed: boolean }} Frame
 */
/**
 * @typedef {{ value: number[], kind: "gradient" | "curve", label: string, key?: string, frame?: Frame, more?: HTMLElement[],
 *   drag: (value: number[]) => void, keep: (value: number[]) => void }} Options `more` stands below in the panel
 */

/** @param {string} name @returns {Side} */
const share = (name) => ({ name, unit: "", from: 0, to: 1, low: 0, high: 1 });
/** @type {Frame} */
const SHARES = {
  across: share("Place"),
  up: { ...share("Height"), low: -1e6, high: 1e6 },
  between: "smooth",
  isFixed: false,
};

/** @type {Record<string, (t: number) => number>} the share of the rise by the share of the way */
const BETWEEN = { smooth: (t) => t * t * (3 - 2 * t), straight: (t) => t, steps: (t) => Number(t >= 1) };

/** @param {Side} side @param {number} number */
const shareOf = ({ from, to }, number) => (number - from) / Math.max(to - from, 1e-9);
/** @param {Side} side @param {number} share */
const numberAt = ({ from, to }, share) => Number((from + (to - from) * share).toPrecision(4));
/** @param {Side} side @param {number} number */
const within = ({ low, high }, number) => Math.min(high, Math.max(low, number));

/** @type {Record<string, number>} */
const WIDTH = { gradient: 4, curve: 2 };

/**
 * @param {number[]} value
 * @param {string} kind
 */
function split(value, kind) {
  const width = WIDTH[kind];
  return Array.from({ length: value.length / width }, (_, i) => value.slice(i * width, (i + 1) * width));
}

/**
 * The list as one picture: a bar, or a line.
 * @param {number[]} value
 * @param {string} kind
 * @param {Frame} frame
 */
function picture(value, kind, frame = SHARES) {
  const stops = split(value, kind);
  if (kind === "gradient") {
    const bar = h("span", { class: "stops-bar" });
    const parts = stops.map(([at, ...colour]) => `${toHex(colour)} ${at * 100}%`);
    bar.style.background = `linear-gradient(to right, ${parts})`;
    return bar;
  }
  const line = svg("polyline", { points: points(stops, frame), fill: "none", class: "stops-line" });
  const drawing = svg("svg", { viewBox: "-2 -2 104 104", preserveAspectRatio: "none", class: "stops-drawing" });
  drawing.append(line);
  return drawing;
}

/**
 * The curve as the core computes it.
 * @param {number[][]} stops
 * @param {Frame} frame
 */
function points(stops, { across, up, between }) {
  const height = (/** @type {number} */ x) => {
    let y = stops[0][1];
    for (let i = 1; i < stops.length; i += 1) {
      const t = Math.min(1, Math.max(0, (x - stops[i - 1][0]) / Math.max(stops[i][0] - stops[i - 1][0], 1e-5)));
      y += (stops[i][1] - y) * BETWEEN[between](t);
    }
    return y;
  };
  const at = (/** @type {number} */ share) => 1 - shareOf(up, height(across.from + (across.to - across.from) * share));
  return Array.from({ length: 101 }, (_, i) => `${i},${(at(i / 100) * 100).toFixed(2)}`).join(" ");
}

/**
 * A button that shows the list and opens its panel.
 * @param {Options} options
 * @returns {HTMLButtonElement}
 */
export function stopsField(options) {
  const count = options.value.length / WIDTH[options.kind];
  const button = h(
    "button",
    {
      type: "button",
      class: `stops-field ${options.kind}`,
      "aria-label": `${options.label}, ${count} stops`,
      "aria-haspopup": "dialog",
      data: options.key ? { focus: options.key } : {},
      onclick: () => stopsPanel(button, options),
    },
    /** @type {any} */ (picture(options.value, options.kind, options.frame)),
  );
  return button;
}

/**
 * @param {HTMLElement} anchor
 * @param {Options} options
 */
function stopsPanel(anchor, { value, kind, label, drag, keep, frame = SHARES, more = [] }) {
  const stops = split(value, kind);
  const { across, up, isFixed } = frame;
  let chosen = 0;
  const board = h("div", { class: `stops-board ${kind}` });
  const details = h("div", { class: frame === SHARES ? "stops-details" : "stops-details framed" });
  /** The colour of the chosen stop; made again only for another stop, since a hand may be on it. */
  const colour = h("div", {});
  let shownColour = -1;
  const panel = h(
    "div",
    { class: "stops-panel", role: "dialog", "aria-label": label },
    h("h3", {}, label),
    board,
    details,
    colour,
    h(
      "p",
      { class: "quiet" },
      isFixed
        ? "Drag or arrow keys move a point."
        : "Press on the picture to add a stop. Drag or arrow keys move it; Delete removes it.",
    ),
    ...more,
  );
  /** @param {boolean} last */
  const tell = (last) => (last ? keep : drag)(stops.flat());

  /**
   * @param {number[]} stop
   * @param {boolean} last
   */
  const change = (stop, last) => {
    const gap = frame === SHARES ? 0 : (across.to - across.from) / 1000;
    const low = stops[chosen - 1] ? stops[chosen - 1][0] + gap : across.low;
    const high = stops[chosen + 1] ? stops[chosen + 1][0] - gap : across.high;
    stop[0] = Math.min(high, Math.max(low, stop[0]));
    if (kind === "curve") stop[1] = isFixed ? stops[chosen][1] : within(up, stop[1]);
    stops[chosen] = stop;
    show();
    tell(last);
  };

  /** @param {number} at */
  const add = (at) => {
    if (stops.length >= MOST || isFixed) return;
    const after = Math.max(1, stops.findIndex((s) => s[0] > at) < 0 ? stops.length : stops.findIndex((s) => s[0] > at));
    const [a, b] = [stops[after - 1], stops[after] ?? stops[after - 1]];
    const t = b[0] > a[0] ? (at - a[0]) / (b[0] - a[0]) : 0;
    stops.splice(after, 0, [at, ...a.slice(1).map((c, i) => c + (b[i + 1] - c) * t)]);
    chosen = after;
    shownColour = -1;
    show();
    tell(true);
  };

  const remove = () => {
    if (stops.length <= 2 || isFixed) return;
    stops.splice(chosen, 1);
    chosen = Math.min(chosen, stops.length - 1);
    shownColour = -1;
    show();
    tell(true);
  };

  /**
   * @param {PointerEvent} event
   * @returns {[number, number]} place and height
   */
  const under = (event) => {
    const box = board.getBoundingClientRect();
    const clamp = (/** @type {number} */ v) => Math.min(1, Math.max(0, v));
    return [
      numberAt(across, clamp((event.clientX - box.left) / box.width)),
      numberAt(up, clamp(1 - (event.clientY - box.top) / box.height)),
    ];
  };

  /** @param {number} index */
  const handle = (index) => {
    const stop = stops[index];
    const knob = h("button", {
      type: "button",
      class: `stop ${index === chosen ? "chosen" : ""}`,
      "aria-label": `Stop ${index + 1} at ${stop[0].toFixed(2)}`,
      "aria-pressed": String(index === chosen),
    });
    const inside = (/** @type {number} */ share) => Math.min(1, Math.max(0, share)) * 100;
    knob.style.left = `${inside(shareOf(across, stop[0]))}%`;
    if (kind === "curve") knob.style.top = `${inside(1 - shareOf(up, stop[1]))}%`;
    else knob.style.background = toHex(stop.slice(1));
    knob.addEventListener("pointerdown", (event) => {
      event.stopPropagation();
      event.preventDefault();
      chosen = index;
      show();
      const live = /** @type {HTMLElement} */ (board.querySelectorAll(".stop")[index]);
      live.focus();
      /** @param {PointerEvent} move */
      const moved = (move) => {
        const [x, y] = under(move);
        change(kind === "curve" ? [x, y] : [x, ...stops[chosen].slice(1)], false);
      };
      const end = () => {
        removeEventListener("pointermove", moved);
        removeEventListener("pointerup", end);
        tell(true);
      };
      addEventListener("pointermove", moved);
      addEventListener("pointerup", end);
    });
    knob.addEventListener("keydown", (event) => {
      const step = event.shiftKey ? 0.1 : 0.01;
      const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
      if (event.key === "Delete" || event.key === "Backspace") remove();
      else if (by) {
        chosen = index;
        const [x, ...rest] = stops[index];
        const [right, high] = [by[0] * (across.to - across.from), by[1] * (up.to - up.from)];
        change(kind === "curve" ? [x + right, rest[0] + high] : [x + right, ...rest], true);
        /** @type {HTMLElement} */ (board.querySelectorAll(".stop")[chosen]).focus();
      } else return;
      event.preventDefault();
      event.stopPropagation();
    });
    knob.addEventListener("focus", () => {
      if (chosen === index) return;
      chosen = index;
      show();
      /** @type {HTMLElement} */ (board.querySelectorAll(".stop")[index]).focus();
    });
    return knob;
  };

  const show = () => {
    board.replaceChildren(/** @type {any} */ (picture(stops.flat(), kind, frame)), ...stops.map((_, i) => handle(i)));
    const [at, ...rest] = stops[chosen];
    const place = numbersField({
      value: [at],
      label: across.name,
      keep: ([x]) => change([x, ...stops[chosen].slice(1)], true),
    });
    const height = numbersField({ value: rest, label: up.name, keep: ([y]) => change([stops[chosen][0], y], true) });
    const named = (/** @type {Side} */ { name, unit }) => h("span", {}, unit ? `${name}, ${unit}` : name);
    const away = h(
      "button",
      { type: "button", class: "button small", disabled: stops.length <= 2 || isFixed, onclick: remove },
      "Remove",
    );
    const parts = [h("label", {}, named(across), place)];
    if (kind === "curve" && !isFixed) parts.push(h("label", {}, named(up), height));
    details.replaceChildren(...parts, away);
    if (kind === "gradient" && shownColour !== chosen) showColour();
  };

  const showColour = () => {
    shownColour = chosen;
    /** @param {boolean} last */
    const take = (last) => (/** @type {number[]} */ rgb) => change([stops[chosen][0], ...rgb], last);
    const value = stops[chosen].slice(1);
    colour.replaceChildren(colourPicker({ value, label: "Colour of this stop", drag: take(false), keep: take(true) }));
  };

  board.addEventListener("pointerdown", (event) => {
    if (!(/** @type {HTMLElement} */ (event.target).closest(".stop"))) add(under(event)[0]);
  });
  show();
  popover(anchor, panel);
  /** @type {HTMLElement} */ (board.querySelector(".stop"))?.focus();
}
