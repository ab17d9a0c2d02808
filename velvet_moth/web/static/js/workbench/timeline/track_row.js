/** The head of a lane: the name of what is keyed, what it is now, its mark, and what it does before and after its keys. */
import { menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { toHex } from "moth/fields/colour.js";
import { valueText } from "moth/fields/fields.js";
import { keyMark } from "moth/workbench/shared/key_mark.js";
import { sceneValue } from "moth/workbench/timeline/scene_values.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */
/** @typedef {import("../../types.d.ts").Track} Track */
/** @typedef {import("../../types.d.ts").TrackState} TrackState */

/** @type {Record<Track["before"], string>} */
const OUTSIDE = { hold: "holds", again: "begins again", there_and_back: "goes there and back" };

/**
 * @param {TracksPanel} panel
 * @param {string} target
 */
export function makeRow(panel, target) {
  const { model } = panel;
  const state = /** @type {TrackState} */ (model.keys.stateOf(target));
  const isOpen = panel.open.has(target);
  const hasCurve = !state.in_steps && !state.pieces.texts.length && state.pieces.reading !== "stops";
  const parameter = model.state.document.parameters.find(({ id }) => id === target);
  const value = () =>
    parameter
      ? model.value(parameter.node, parameter.input)
      : panel.stage
        ? sceneValue(model, panel.stage, target)
        : [];
  const own = model.variant && state.variant === model.variant;
  return h(
    "div",
    { class: `track-head ${isOpen ? "open" : ""}`, data: { target } },
    h(
      "button",
      {
        type: "button",
        class: "disclosure",
        disabled: !hasCurve,
        "aria-expanded": String(isOpen),
        "aria-label": `${isOpen ? "Close" : "Open"} the curve of ${state.name}`,
        title: hasCurve ? "Its curve" : "It has no curve: it goes in steps",
        data: { focus: `track.${target}.open` },
        onclick: () => panel.toggle(target),
      },
      isOpen ? "▾" : "▸",
    ),
    h(
      "span",
      { class: "track-name", title: own ? `${state.name}: keys of this variant` : state.name },
      state.name,
      own ? h("span", { class: "own", title: "Keys of this variant" }, " ·") : null,
    ),
    h("span", { class: "track-value mono quiet" }, valueNow(panel, target)),
    keyMark(model, {
      target,
      name: state.name,
      value,
      inSteps: state.in_steps,
      focus: `track.${target}.mark`,
    }),
    h(
      "button",
      {
        type: "button",
        class: "track-menu",
        "aria-haspopup": "menu",
        "aria-label": `More for ${state.name}`,
        title: "Before and after its keys, and more",
        data: { focus: `track.${target}.menu` },
        onclick: (/** @type {Event} */ event) => more(panel, target, /** @type {HTMLElement} */ (event.currentTarget)),
      },
      "⋯",
    ),
  );
}

/** What a target is at the moment, in few letters. @param {TracksPanel} panel @param {string} target */
export function valueNow({ model }, target) {
  const state = model.keys.stateOf(target);
  const now = model.keys.now(target);
  if (!state || now === undefined) return "";
  if (typeof now === "string") return model.state.textures[now]?.name ?? "no texture";
  if (state.in_steps) return now[0] > 0.5 ? "yes" : "no";
  if (state.pieces.stop) return `${now.length / state.pieces.stop} stops`;
  if (state.is_colour) return toHex(now);
  return now.length > 3 ? "" : valueText(now.map((part) => Number(part.toPrecision(3))));
}

/**
 * @param {TracksPanel} panel
 * @param {string} target
 * @param {HTMLElement} anchor
 */
function more(panel, target, anchor) {
  const { model } = panel;
  const track = model.keys.trackOf(target);
  const state = model.keys.stateOf(target);
  if (!track || !state) return;
  const { variant } = model;
  const set = (/** @type {Partial<Track>} */ change) =>
    void model.edit({ op: "set_track", target, track: { ...track, ...change }, variant });
  /** @param {"before" | "after"} side @returns {[string, () => void][]} */
  const sides = (side) =>
    Object.entries(OUTSIDE).map(([key, words]) => [
      `${track[side] === key ? "✓ " : ""}${side === "before" ? "Before its keys" : "After them"} it ${words}`,
      () => set({ [side]: /** @type {Track["before"]} */ (key) }),
    ]);
  const isOwn = !!variant && state.variant === variant;
  menu(anchor, [
    ...sides("before"),
    ...sides("after"),
    ...(state.is_colour
      ? /** @type {[string, () => void][]} */ ([
          [`${track.path === "light" ? "✓ " : ""}The colour goes as light`, () => set({ path: "light" })],
          [`${track.path === "hue" ? "✓ " : ""}The colour goes around the hues`, () => set({ path: "hue" })],
        ])
      : []),
    [`Choose all its keys`, () => panel.chosen.all(target)],
    isOwn
      ? ["Go back to the keys it had without", () => void model.edit({ op: "set_track", target, track: null, variant })]
      : variant && !target.includes("/")
        ? [
            "Hold it still in this variant",
            () =>
              void model.edit({
                op: "set_override",
                variant,
                parameter: target,
                value: model.keys.now(target) ?? null,
              }),
          ]
        : ["Remove all its keys", () => void model.edit({ op: "set_track", target, track: null, variant })],
  ]);
}
