/** The overlay of keys and gestures, written by the very list that the keys obey. */
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { KEY_ACTS, TIMELINE_KEYS } from "moth/workbench/timeline/key_acts.js";
import { COMMANDS, GESTURES } from "moth/workbench/gestures/commands.js";

export function showKeys() {
  const own = Object.entries(COMMANDS).map(
    ([title, commands]) =>
      /** @type {const} */ ([
        title,
        commands
          .filter(({ words }) => words)
          .map(({ keys, words }) => /** @type {[string[], string]} */ ([keys, words])),
      ]),
  );
  /** @type {[string, [string[], string][]][]} */
  const others = [
    [
      "Keys over time",
      [...KEY_ACTS.map(({ keys, words }) => /** @type {[string[], string]} */ ([keys, words])), ...TIMELINE_KEYS],
    ],
    .../** @type {any} */ (Object.entries(GESTURES)),
  ];
  const groups = [...own, ...others].map(([title, rows]) =>
    h("section", {}, h("h3", { class: "eyebrow" }, title), h("dl", { class: "shortcuts" }, rows.flatMap(row))),
  );
  sheet("Keys and gestures", h("div", { class: "key-groups", tabindex: 0 }, groups)).classList.add("keys-sheet");
}

/** @param {[string[], string]} row */
const row = ([keys, words]) => [
  h(
    "dt",
    {},
    keys.flatMap((key, i) => [i ? " " : "", h("kbd", {}, key)]),
  ),
  h("dd", {}, words),
];
