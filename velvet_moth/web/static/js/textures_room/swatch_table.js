/** The table of a set of tiles: the number, the place and the values of each, to be read or copied as text. */
import { toHex } from "moth/fields/colour.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { numberText } from "moth/fields/fields.js";
import { notice } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").RecipeTile} RecipeTile */
/** @typedef {import("../types.d.ts").Setting} Setting */

/** @param {number[] | import("../types.d.ts").TakenFrom} held */
function wordsOf(held) {
  if (!Array.isArray(held)) return held.texture ? "a texture" : "a step";
  return held.length === 3 ? toHex(held) : held.map(numberText).join(" ");
}

/**
 * @param {Setting} setting
 * @param {RecipeTile[]} tiles
 * @param {import("../types.d.ts").AtlasGrid | null} atlas
 * @param {(setting: Setting, tile: RecipeTile) => HTMLElement} look
 */
export function swatchTable(setting, tiles, atlas, look) {
  const maps = setting.maps.filter(({ plain }) => plain.length);
  const heads = ["Number", "Name", "u from", "v from", "u to", "v to", ...maps.map(({ name }) => name)];
  const lines = tiles.map((tile, index) => {
    const box = atlas?.boxes[index]?.map((part) => part.toFixed(4)) ?? ["", "", "", ""];
    const held = maps.map(({ key, role, plain }) =>
      role === "normal" && !tile.maps[key] ? "flat" : wordsOf(tile.maps[key] ?? plain),
    );
    return [String(index + 1), tile.name || `tile ${index + 1}`, ...box, ...held];
  });
  const rows = lines.map((cells, index) =>
    h(
      "tr",
      {},
      h("td", {}, look(setting, tiles[index])),
      cells.map((text, i) => h(i === 1 ? "th" : "td", i === 1 ? { scope: "row" } : { class: "mono" }, text)),
    ),
  );
  const copy = () =>
    navigator.clipboard
      .writeText([heads, ...lines].map((cells) => cells.join("\t")).join("\n"))
      .then(() => notice("Copied as text, one tile a line."))
      .catch(() =>
        notice("The browser did not let it be copied.", { mend: "Mark the table and copy it.", wrong: true }),
      );
  const dialog = sheet(
    "Swatch table",
    tiles.length
      ? h(
          "div",
          { class: "swatch-table", tabindex: "0" },
          h(
            "table",
            {},
            h(
              "thead",
              {},
              h(
                "tr",
                {},
                ["", ...heads].map((head) => h("th", { scope: "col" }, head)),
              ),
            ),
            h("tbody", {}, rows),
          ),
        )
      : h("p", { class: "quiet" }, "No tile yet: add one."),
    h(
      "div",
      { class: "row end" },
      tiles.length ? h("button", { type: "button", class: "button", onclick: copy }, "Copy as text") : null,
      h("button", { type: "button", class: "button", onclick: () => dialog.close() }, "Close"),
    ),
  );
}
