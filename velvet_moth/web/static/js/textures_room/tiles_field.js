/** The tiles of an atlas or a palette on their grid: put in order by dragging, each opened for its name and maps. */
import { carry } from "moth/fields/carry.js";
import { toHex } from "moth/fields/colour.js";
import { h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";
import { pictureOf } from "moth/pictures/texture_grid.js";
import { sourceField } from "moth/stacks/source_field.js";
import { swatchTable } from "moth/textures_room/swatch_table.js";

/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {import("../types.d.ts").RecipeTile} RecipeTile */
/** @typedef {import("../types.d.ts").Setting} Setting */
/** @typedef {import("../types.d.ts").TileMapInfo} TileMap */

export class TilesField {
  /**
   * @param {import("./maker.js").RecipeView} view
   * @param {() => void} draw draws the stack again
   */
  constructor(view, draw) {
    this.view = view;
    this.draw = draw;
    /** Which tile of each step is open. @type {Map<string, number>} */
    this.open = new Map();
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {number} at
   */
  of(step, setting, at) {
    /** @type {RecipeTile[]} */
    const tiles = /** @type {any} */ (step.values[setting.key]) ?? [];
    const setting_ = (/** @type {string} */ key) =>
      Number(step.values[key] ?? this.view.kinds.get(step.step)?.settings.find((s) => s.key === key)?.default);
    const [columns, rows] = [setting_("columns"), setting_("rows")];
    const chosen = Math.min(this.open.get(step.id) ?? 0, tiles.length - 1);
    const cells = Array.from({ length: Math.max(columns * rows, tiles.length) }, (_, index) =>
      this.#cell(step, setting, tiles, index, chosen),
    );
    const grid = h("div", { class: columns > 8 ? "tile-grid dense" : "tile-grid", role: "group" }, cells);
    grid.style.gridTemplateColumns = `repeat(${columns}, minmax(0, 1fr))`;
    grid.setAttribute("aria-label", `${tiles.length} tiles on ${columns} by ${rows} cells`);
    const act = (/** @type {string} */ words, /** @type {() => void} */ press, off = false) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          disabled: off,
          onclick: press,
          data: { focus: `${step.id} tiles ${words}` },
        },
        words,
      );
    return h(
      "div",
      { class: "tiles-field" },
      grid,
      h("p", { class: "quiet tiles-clean", data: { tiles: step.id } }),
      h(
        "div",
        { class: "row" },
        act("Add a tile", () => this.#add(step, setting, tiles.length), tiles.length >= columns * rows),
        act("Swatch table", () => swatchTable(setting, tiles, this.view.seen.atlas ?? null, this.#look.bind(this))),
      ),
      tiles[chosen] ? this.#editor(step, setting, tiles, chosen, at) : null,
    );
  }

  /** What a look has told: how steps look, and how far down the cells keep apart. @param {HTMLElement} place */
  refresh(place) {
    const { atlas, small } = this.view.seen;
    for (const image of /** @type {NodeListOf<HTMLImageElement>} */ (
      place.querySelectorAll(".tile-look img[data-look]")
    )) {
      const src = small[image.dataset.look ?? ""];
      image.hidden = !src;
      if (src && image.src !== src) image.src = src;
    }
    for (const line of /** @type {NodeListOf<HTMLElement>} */ (place.querySelectorAll(".tiles-clean"))) {
      if (line.dataset.tiles !== this.view.chosen || !atlas) continue;
      line.textContent = atlas.clean
        ? `Cells keep apart down to level ${atlas.clean}.`
        : "Smaller levels run together here: more padding, or cells of 2, 4, 8, … pixels keep them apart.";
    }
  }

  /**
   * One change of a step's tiles.
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {(tiles: RecipeTile[]) => void} act
   * @param {boolean} [isDrag]
   */
  #change(step, setting, act, isDrag = false) {
    const { model } = this.view;
    const held = model?.stack.steps.find(({ id }) => id === step.id)?.values[setting.key];
    const tiles = /** @type {RecipeTile[]} */ (structuredClone(held ?? []));
    act(tiles);
    if (isDrag) model?.drag(step.id, setting.key, tiles);
    else void model?.set(step.id, setting.key, tiles);
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {number} index
   */
  #add(step, setting, index) {
    this.open.set(step.id, index);
    this.#change(step, setting, (tiles) => tiles.push({ name: "", maps: {} }));
  }

  /** How a tile looks in small: its first map. @param {Setting} setting @param {RecipeTile} tile */
  #look(setting, tile) {
    const [first] = setting.maps;
    const held = tile.maps[first.key] ?? first.plain;
    const found = h("span", { class: "tile-look" });
    if (Array.isArray(held)) found.style.background = held.length === 3 ? toHex(held) : "";
    else {
      const known = this.view.textures().find(({ id }) => id === held.texture);
      const src = known ? pictureOf(known.id, known.revision) : this.view.seen.small[held.step ?? ""];
      const data = held.step ? { look: held.step } : {};
      found.append(h("img", { src, hidden: !src, alt: "", draggable: "false", data }));
    }
    return found;
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {RecipeTile[]} tiles
   * @param {number} index
   * @param {number} chosen
   */
  #cell(step, setting, tiles, index, chosen) {
    const tile = tiles[index];
    const focus = `${step.id} tile ${index}`;
    if (!tile)
      return h(
        "button",
        {
          type: "button",
          class: "tile-cell empty",
          "aria-label": `Cell ${index + 1}, empty: add a tile`,
          onclick: () => this.#add(step, setting, tiles.length),
          data: { cell: index, focus },
        },
        h("span", { class: "tile-index" }, String(index + 1)),
      );
    const press = () => {
      this.open.set(step.id, index);
      this.draw();
    };
    const name = tile.name || `tile ${index + 1}`;
    const found = h(
      "button",
      {
        type: "button",
        class: "tile-cell",
        "aria-pressed": String(index === chosen),
        "aria-label": `Cell ${index + 1}, ${name}. Alt and arrows move it`,
        title: `${index + 1} ${tile.name}`,
        onclick: press,
        data: { cell: index, focus },
      },
      this.#look(setting, tile),
      h("span", { class: "tile-index" }, String(index + 1)),
    );
    found.addEventListener("pointerdown", (event) =>
      carry(event, name, (element) => {
        const to = Number(/** @type {HTMLElement | null} */ (element?.closest("[data-cell]"))?.dataset.cell ?? -1);
        const last = Math.min(to, tiles.length - 1);
        if (to < 0 || last === index) return null;
        const onto = /** @type {HTMLElement} */ (element?.closest("[data-cell]"));
        return { words: `to cell ${last + 1}`, onto, act: () => this.#move(step, setting, index, last) };
      }),
    );
    found.addEventListener("keydown", (/** @type {KeyboardEvent} */ event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!event.altKey || !by) return;
      event.preventDefault();
      this.#move(step, setting, index, Math.min(Math.max(index + by, 0), tiles.length - 1));
    });
    return found;
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {number} from
   * @param {number} to
   */
  #move(step, setting, from, to) {
    if (from === to) return;
    this.open.set(step.id, to);
    const focus = CSS.escape(`${step.id} tile ${to}`);
    const cell = () => /** @type {HTMLElement | null} */ (document.querySelector(`[data-focus="${focus}"]`));
    cell()?.focus();
    this.#change(step, setting, (tiles) => tiles.splice(to, 0, ...tiles.splice(from, 1)));
  }

  /**
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {RecipeTile[]} tiles
   * @param {number} index
   * @param {number} at
   */
  #editor(step, setting, tiles, index, at) {
    const tile = tiles[index];
    const focus = `${step.id} tile`;
    const name = h("input", {
      class: "field",
      value: tile.name,
      maxlength: 80,
      placeholder: `tile ${index + 1}`,
      "aria-label": `Name of tile ${index + 1}`,
      data: { focus: `${focus} name` },
    });
    name.addEventListener("change", () =>
      this.#change(step, setting, (all) => void (all[index].name = name.value.trim())),
    );
    const act = (/** @type {string} */ words, /** @type {(all: RecipeTile[]) => void} */ press) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          onclick: () => this.#change(step, setting, press),
          data: { focus: `${focus} ${words}` },
        },
        words,
      );
    return h(
      "fieldset",
      { class: "tile-editor" },
      h("legend", {}, `Tile ${index + 1}`),
      name,
      setting.maps.map((map) => this.#map(step, setting, tile, index, map, at)),
      h(
        "div",
        { class: "row" },
        act("Copy tile", (all) => {
          this.open.set(step.id, index + 1);
          all.splice(index + 1, 0, structuredClone(all[index]));
        }),
        act("Remove tile", (all) => all.splice(index, 1)),
      ),
    );
  }

  /**
   * One map of a tile: a picture, or one value all over.
   * @param {StackStepState} step
   * @param {Setting} setting
   * @param {RecipeTile} tile
   * @param {number} index
   * @param {TileMap} map
   * @param {number} at
   */
  #map(step, setting, tile, index, map, at) {
    const held = tile.maps[map.key];
    const isPlain = !held || Array.isArray(held);
    const focus = `${step.id} tile ${map.key}`;
    const label = `${map.name} of tile ${index + 1}`;
    const set = (/** @type {any} */ value, isDrag = false) =>
      this.#change(
        step,
        setting,
        (all) => {
          if (value === null) delete all[index].maps[map.key];
          else all[index].maps[map.key] = value;
        },
        isDrag,
      );
    const none = !map.plain.length ? "choose …" : map.role === "normal" ? "flat" : "one value";
    const source = sourceField(this.view, at, { kind: "picture", now: isPlain ? null : held, none, label, focus, set });
    const value = /** @type {number[]} */ (held ?? map.plain);
    const both = {
      value,
      label: `${label}, value`,
      key: `${focus} value`,
      drag: (/** @type {number[]} */ v) => set(v, true),
      keep: (/** @type {number[]} */ v) => set(v),
    };
    const field = !isPlain || !map.plain.length || map.role === "normal" ? null : plainField(map, both);
    return h("div", { class: "setting" }, h("span", { class: "setting-name" }, map.name), h("span", {}, source, field));
  }
}

/**
 * @param {TileMap} map
 * @param {{ value: number[], label: string, key: string, drag: (v: number[]) => void, keep: (v: number[]) => void }} options
 */
function plainField(map, options) {
  if (map.role === "colour") return colourField(options);
  const within = (/** @type {number[]} */ value) => value.map((v) => Math.min(Math.max(v, 0), 1));
  const { drag, keep } = options;
  return numbersField({ ...options, drag: (v) => drag(within(v)), keep: (v) => keep(within(v)) });
}
