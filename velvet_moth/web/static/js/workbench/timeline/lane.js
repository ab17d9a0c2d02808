/** One lane of the timeline: the curve of a track, its keys, and the slopes of those that go on by hand. */
import { follow, h } from "moth/base/dom.js";
import { valueText } from "moth/fields/fields.js";
import { secondsText } from "moth/workbench/model/keys.js";
import { colourBand, curves, endsOf, heightOf, steps, tintOf, valueAtHeight } from "moth/workbench/timeline/curves.js";
import { move } from "moth/workbench/timeline/key_acts.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */
/** @typedef {import("../../types.d.ts").Key} Key */
/** @typedef {import("../../types.d.ts").Track} Track */
/** @typedef {import("../../types.d.ts").TrackState} TrackState */

/** Finer by Shift: so much of a movement of the hand counts. */
const FINE = 0.1;

/**
 * @typedef {object} Lane
 * @property {TracksPanel} panel
 * @property {string} target
 * @property {TrackState} state
 * @property {Track} track
 * @property {boolean} isOpen
 * @property {import("./curves.js").Ends} ends
 */

/**
 * @param {TracksPanel} panel
 * @param {string} target
 * @returns {HTMLElement}
 */
export function makeLane(panel, target) {
  const { model, view } = panel;
  const state = /** @type {TrackState} */ (model.keys.stateOf(target));
  const track = panel.trackOf(target);
  const pieces = model.keys.piecesOf(target) ?? state.pieces;
  const hasCurve = !state.in_steps && !pieces.texts.length && pieces.reading !== "stops";
  const isOpen = hasCurve && panel.open.has(target);
  const element = h("div", {
    class: `lane ${isOpen ? "open" : ""}`,
    data: { target },
    role: "group",
    "aria-label": `Keys of ${state.name}`,
  });
  const lane = { panel, target, state, track, isOpen, ends: hasCurve ? endsOf(pieces) : { low: 0, high: 1 } };
  if (pieces.reading === "light" || pieces.reading === "hue") {
    const band = h("span", { class: "band" });
    band.style.background = colourBand(pieces, view);
    element.append(band);
  }
  if (hasCurve) element.append(curves(pieces, view, lane.ends, isOpen));
  if (state.in_steps) element.append(...stepBars(lane));
  if (isOpen) element.append(...slopes(lane));
  track.keys.forEach((key, at) => element.append(...keyMarks(lane, key, at)));
  element.addEventListener("pointerdown", (event) => panel.box(event, element));
  return element;
}

/** @param {Lane} lane */
function stepBars({ panel, state }) {
  const { view, model } = panel;
  const words = (/** @type {import("../../types.d.ts").Value} */ value) =>
    Array.isArray(value) ? (value[0] > 0.5 ? "yes" : "no") : (model.state.textures[value]?.name ?? "no texture");
  return steps(state, words).map(({ from, to, words: text }) => {
    const bar = h("span", { class: "step-bar" }, text);
    bar.style.left = view.percent(from);
    bar.style.right = `${Math.max(0, 1 - view.share(Math.min(to, view.to))) * 100}%`;
    return bar;
  });
}

/** The value of a key in words. @param {TracksPanel} panel @param {Key} key */
function valueWords({ model }, { value }) {
  if (typeof value === "string") return model.state.textures[value]?.name ?? "no texture";
  return value.length > 7 ? `${value.length} numbers` : valueText(value);
}

/**
 * The marks of one key: one in a lane that is closed, one on each curve in an open one.
 * @param {Lane} lane
 * @param {Key} key
 * @param {number} at its place among the keys
 */
function keyMarks(lane, key, at) {
  const { panel, target, isOpen, state, track } = lane;
  const cubics = (panel.model.keys.piecesOf(target) ?? state.pieces).cubics[at];
  const parts = isOpen && cubics ? cubics.map((cubic, part) => ({ part, height: heightOf(lane.ends, cubic[0]) })) : [];
  const way = panel.model.settings.ways[key.way]?.name ?? key.way;
  const isLast = at === track.keys.length - 1;
  return (parts.length ? parts : [{ part: -1, height: 0.5 }]).map(({ part, height }) => {
    const mark = h(
      "button",
      {
        type: "button",
        class: `key ${key.way} ${panel.chosen.has(target, key.time) ? "chosen" : ""} ${part >= 0 ? "on-curve" : ""}`,
        tabindex: part <= 0 && panel.tabStop === `${target} ${key.time}` ? 0 : -1,
        "aria-pressed": String(panel.chosen.has(target, key.time)),
        "aria-label": `Key of ${state.name} at ${secondsText(key.time)}: ${valueWords(panel, key)}${part >= 0 && parts.length > 1 ? `, ${state.parts[part]}` : ""}${isLast ? "" : `, goes on ${way.toLowerCase()}`}`,
        title: `${secondsText(key.time)}  ${valueWords(panel, key)}${isLast ? "" : `\n${way}: ${panel.model.settings.ways[key.way]?.words ?? ""}`}\nDrag to move, Enter to type`,
        data: { target, time: String(key.time), part: String(part), focus: `key.${target}.${key.time}.${part}` },
      },
      "",
    );
    mark.style.left = panel.view.percent(key.time);
    mark.style.top = `${height * 100}%`;
    if (part >= 0) mark.style.setProperty("--tint", tintOf(part));
    mark.addEventListener("pointerdown", (event) => grab(lane, key, part, mark, event));
    mark.addEventListener("dblclick", () => panel.typeKey(target, key.time, mark));
    return mark;
  });
}

/**
 * A press on a key chooses it, a drag moves the chosen ones, and up and down the value of this one.
 * @param {Lane} lane
 * @param {Key} key
 * @param {number} part which number of the value; -1 for none
 * @param {HTMLElement} mark
 * @param {PointerEvent} start
 */
function grab(lane, key, part, mark, start) {
  if (start.button !== 0) return;
  start.preventDefault();
  start.stopPropagation();
  const { panel, target } = lane;
  const { chosen, model, view } = panel;
  mark.focus({ preventScroll: true });
  const isMore = start.shiftKey || start.ctrlKey || start.metaKey;
  if (isMore) return chosen.pick(target, key.time, true);
  const wasChosen = chosen.has(target, key.time);
  if (!wasChosen) chosen.pick(target, key.time, false);
  let by = 0;
  /** @type {number[] | null} */
  let value = null;
  follow(
    start,
    (dx, dy, event) => {
      const moved = dx * view.perPixel(panel.laneOf(target));
      const snapped = model.keys.snapped(key.time + moved) - key.time;
      by = model.keys.snaps && !event.altKey ? snapped : moved;
      if (Math.abs(dx) < 3) by = 0;
      value = part < 0 || Math.abs(dy) < 3 ? null : pulled(lane, key, part, dy * (event.shiftKey ? FINE : 1));
      panel.preview((time) => time + by);
      if (value) panel.draft(target, changed(lane.track, key, { ...key, time: Math.max(key.time + by, 0), value }));
    },
    (moved) => {
      if (!moved) {
        if (wasChosen) chosen.pick(target, key.time, false);
        return;
      }
      if (value) void panel.put(target, key, { ...key, time: Math.max(key.time + by, 0), value });
      else if (by) void move(panel, by);
      else panel.refresh();
    },
  );
}

/**
 * The value of a key, one of its numbers pulled up or down by so many pixels. A colour that goes around stays as it is: its curves
 * are those of hue, saturation and value.
 * @param {Lane} lane
 * @param {Key} key
 * @param {number} part
 * @param {number} dy
 */
function pulled({ panel, target, ends, state }, { value }, part, dy) {
  if (typeof value === "string" || state.pieces.reading === "hue") return null;
  const { height } = panel.laneOf(target).getBoundingClientRect();
  const per = valueAtHeight(ends, 0) - valueAtHeight(ends, 1);
  return value.map((number, at) => (at === part ? Number((number - (dy / height) * per).toPrecision(6)) : number));
}

/** A track with another key in the place of one. @param {Track} track @param {Key} key @param {Key} other @returns {Track} */
const changed = (track, key, other) => ({
  ...track,
  keys: [...track.keys.filter((one) => one.time !== key.time && one.time !== other.time), other].sort(
    (a, b) => a.time - b.time,
  ),
});

/** Handles for the slopes of keys that are drawn by hand. @param {Lane} lane */
function slopes(lane) {
  const { keys } = lane.track;
  return keys.flatMap((key, at) => {
    if (key.way !== "hand" || !keys[at + 1] || typeof key.value === "string") return [];
    const width = key.value.length;
    return Array.from({ length: width }, (_, part) => [
      ...slope(lane, at, part, "leaving"),
      ...slope(lane, at + 1, part, "arriving"),
    ]).flat();
  });
}

/**
 * @param {Lane} lane
 * @param {number} at the place of the key
 * @param {number} part
 * @param {"leaving" | "arriving"} side
 */
function slope(lane, at, part, side) {
  const { panel, target, ends, state } = lane;
  const { view } = panel;
  const { keys } = lane.track;
  const key = keys[at];
  const cubic = (panel.model.keys.piecesOf(target) ?? state.pieces).cubics[at]?.[part];
  if (!cubic) return [];
  const third = side === "leaving" ? (keys[at + 1].time - key.time) / 3 : (keys[at - 1].time - key.time) / 3;
  const now = key[side]?.[part] ?? 0;
  const handle = h("button", {
    type: "button",
    class: "slope",
    tabindex: -1,
    "aria-label": `Slope of ${state.name} ${side === "leaving" ? "after" : "before"} ${secondsText(key.time)}, ${Number(now.toPrecision(3))} a second`,
    title: "Drag to bend the curve, or press the arrows up and down; with Alt only this side of the key",
    data: { focus: `slope.${target}.${at}.${part}.${side}` },
  });
  const line = h("span", { class: "slope-line" });
  const stand = (/** @type {number} */ value) => {
    const box = panel.laneOf(target).getBoundingClientRect();
    const [x0, y0] = [view.share(key.time) * box.width, heightOf(ends, cubic[0]) * box.height];
    const [x1, y1] = [view.share(key.time + third) * box.width, heightOf(ends, cubic[0] + value * third) * box.height];
    handle.style.left = `${x1}px`;
    handle.style.top = `${y1}px`;
    line.style.left = `${x0}px`;
    line.style.top = `${y0}px`;
    line.style.width = `${Math.hypot(x1 - x0, y1 - y0)}px`;
    line.style.rotate = `${Math.atan2(y1 - y0, x1 - x0)}rad`;
  };
  queueMicrotask(() => stand(now));
  const bent = (/** @type {number} */ value, /** @type {boolean} */ isAlone) => {
    const width = /** @type {number[]} */ (key.value).length;
    const before = (/** @type {"leaving" | "arriving"} */ of) => key[of] ?? new Array(width).fill(0);
    const put = (/** @type {"leaving" | "arriving"} */ of) =>
      before(of).map((/** @type {number} */ one, /** @type {number} */ i) => (i === part ? value : one));
    // A curve that passes a key smoothly goes on doing so.
    const isSmooth = (key.arriving?.[part] ?? 0) === (key.leaving?.[part] ?? 0) && keys[at - 1]?.way === "hand";
    const other = side === "leaving" ? "arriving" : "leaving";
    return { ...key, [side]: put(side), ...(isSmooth && !isAlone ? { [other]: put(other) } : {}) };
  };
  handle.addEventListener("pointerdown", (start) => {
    if (start.button !== 0) return;
    start.preventDefault();
    start.stopPropagation();
    handle.focus({ preventScroll: true });
    let made = key;
    follow(
      start,
      (_dx, _dy, event) => {
        const shown = panel.laneOf(target);
        const box = shown.getBoundingClientRect();
        const rise = valueAtHeight(ends, (event.clientY - box.top) / box.height) - cubic[0];
        const run = view.timeAt(shown, event.clientX) - key.time;
        // On the other side of its key a handle would turn the curve round.
        const value = rise / (Math.sign(third) * Math.max(Math.abs(run), Math.abs(third) / 20));
        made = bent(Number(value.toPrecision(6)), event.altKey);
        stand(value);
        panel.draft(target, changed(lane.track, key, made));
      },
      (moved) => (moved ? void panel.put(target, key, made) : undefined),
    );
  });
  handle.addEventListener("keydown", (event) => {
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
    event.preventDefault();
    event.stopPropagation();
    const by = ((ends.high - ends.low) / Math.abs(third)) * 0.05 * (event.shiftKey ? FINE : 1);
    void panel.put(target, key, bent(now + (event.key === "ArrowUp" ? by : -by) * Math.sign(third), event.altKey));
  });
  return [line, handle];
}
