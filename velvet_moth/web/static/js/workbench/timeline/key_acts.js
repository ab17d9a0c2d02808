/** Everything that can be done to chosen keys: one list, for the keyboard, the menu and the overlay that explains them. */
import { askText } from "moth/base/dialogs.js";
import { notice } from "moth/base/notices.js";
import { parseNumbers } from "moth/fields/arithmetic.js";

/** @typedef {import("./tracks_panel.js").TracksPanel} TracksPanel */
/** @typedef {import("../../types.d.ts").Key} Key */
/** @typedef {{ keys: string[], name: string, words: string, run: (panel: TracksPanel) => unknown }} Act */

/** Copied keys, also for other graphs of this page. @type {{ target: string, keys: Key[] }[]} */
let copied = [];

/** @param {TracksPanel} panel */
const asked = ({ model, chosen }) => ({ chosen: chosen.list, variant: model.variant });

/**
 * Moves the chosen keys, which stay chosen.
 * @param {TracksPanel} panel
 * @param {number} by seconds
 */
export async function move(panel, by) {
  const { model, chosen } = panel;
  const { keys } = model;
  const first = chosen.ends?.[0] ?? 0;
  const to = (/** @type {number} */ time) => {
    const moved = time + Math.max(by, -first);
    return Math.max(keys.snaps ? keys.snapped(moved) : moved, 0);
  };
  const after = chosen.list.map(({ target, times }) => ({ target, times: times.map(to) }));
  const made = model.craft({ craft: "move_keys", ...asked(panel), by, snap: keys.snaps });
  chosen.set(after);
  if (!(await made)) panel.refresh();
}

/**
 * Scales the chosen keys about a time.
 * @param {TracksPanel} panel
 * @param {number} about seconds
 * @param {number} factor
 */
export async function scale(panel, about, factor) {
  const { model, chosen } = panel;
  const { keys } = model;
  const to = (/** @type {number} */ time) => {
    const scaled = about + (time - about) * factor;
    return Math.max(keys.snaps ? keys.snapped(scaled) : scaled, 0);
  };
  const after = chosen.list.map(({ target, times }) => ({ target, times: times.map(to) }));
  const made = model.craft({ craft: "scale_keys", ...asked(panel), about, factor, snap: keys.snaps });
  chosen.set(after);
  if (!(await made)) panel.refresh();
}

/** @param {TracksPanel} panel */
export function copyKeys({ model, chosen }) {
  copied = chosen.list.map(({ target, times }) => {
    const there = model.keys.trackOf(target)?.keys ?? [];
    return { target, keys: there.filter((key) => times.includes(key.time)) };
  });
}

/** @param {TracksPanel} panel */
async function pasteKeys(panel) {
  const { model, chosen } = panel;
  if (!copied.length)
    return void notice("No keys were copied.", { mend: "Choose keys on the timeline and copy them first." });
  // Keys of one value go onto the row that has the keyboard.
  const onto = copied.length === 1 && panel.row && panel.row !== copied[0].target ? panel.row : null;
  const time = model.keys.moment;
  const first = Math.min(...copied.flatMap((one) => one.keys.map((key) => key.time)));
  const done = await model.craft({ craft: "paste_keys", copied, time, onto, variant: model.variant });
  if (!done) return;
  chosen.set(
    copied.map(({ target, keys }) => ({
      target: onto ?? target,
      times: keys.map((key) => key.time - first + time),
    })),
  );
  panel.refresh();
}

/** @param {TracksPanel} panel */
export function removeKeys({ model, chosen }) {
  const steps = chosen.list.map(({ target, times }) => ({
    op: /** @type {const} */ ("change_keys"),
    target,
    remove: times,
    variant: model.variant,
  }));
  if (steps.length) void model.editAll(steps, chosen.count === 1 ? "" : `removed ${chosen.count} keys`);
}

/** @param {TracksPanel} panel */
async function askScale(panel) {
  const ends = panel.chosen.ends;
  if (!ends) return;
  const text = await askText("Scale about the first key, by", "2", "Scale");
  const [factor] = (text && parseNumbers(text, 1)) || [0];
  if (factor > 0) await scale(panel, ends[0], factor);
  else if (text) notice("Keys are scaled by a number above 0.", { mend: "Type 2 for twice as long, 1/2 for half." });
}

/** @type {Act[]} */
export const KEY_ACTS = [
  { keys: ["Ctrl+C"], name: "Copy", words: "Copy the chosen keys", run: copyKeys },
  {
    keys: ["Ctrl+X"],
    name: "Cut",
    words: "Cut the chosen keys",
    run: (panel) => (copyKeys(panel), removeKeys(panel)),
  },
  { keys: ["Ctrl+V"], name: "Paste at the moment", words: "Paste keys at the moment shown", run: pasteKeys },
  {
    keys: ["R"],
    name: "Reverse",
    words: "Reverse the chosen keys in time",
    run: (panel) => panel.model.craft({ craft: "reverse_keys", ...asked(panel) }),
  },
  {
    keys: ["L"],
    name: "Line up at the moment",
    words: "Line the chosen keys of each row up at the moment shown",
    run: (panel) => panel.model.craft({ craft: "line_up_keys", ...asked(panel), time: panel.model.keys.moment }),
  },
  { keys: ["S"], name: "Scale…", words: "Scale the chosen keys in time", run: askScale },
  { keys: ["Delete"], name: "Remove", words: "Remove the chosen keys", run: removeKeys },
];

/** @param {KeyboardEvent} event */
export function actOf(event) {
  const key = event.key === "Backspace" ? "Delete" : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const name = `${event.ctrlKey || event.metaKey ? "Ctrl+" : ""}${key}`;
  return event.altKey || event.shiftKey ? undefined : KEY_ACTS.find(({ keys }) => keys.includes(name));
}

/** What else keys do while the timeline has the keyboard, for the overlay. @type {[string[], string][]} */
export const TIMELINE_KEYS = [
  [
    ["Arrows on a key"],
    "Go to the next key or row; with Shift choose more; with Alt move by a frame, or change the value",
  ],
  [["Enter"], "Type the time and value of the key, and how it goes on"],
  [["Ctrl+A"], "Choose all keys of the row; with Shift of all rows"],
  [[",", "."], "Go to the key before or after the moment shown"],
  [["K"], "Set a key of the row at the moment shown, or take it away"],
  [["[", "]", "\\"], "The stretch that repeats begins here, ends here, is all of the time again"],
  [["+", "−", "0"], "Show less or more time, or all of it"],
];
