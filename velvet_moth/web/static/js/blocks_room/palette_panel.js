/** The palette beside the stage: every entry as a lit block, its name, how many blocks have it. */
import { getJson } from "moth/base/api.js";
import { menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").EntryState} EntryState */
/** @typedef {import("../types.d.ts").BlockModelState} BlockModelState */
/** @typedef {import("../types.d.ts").SurfaceChoice} SurfaceChoice */
/** What is set of an entry. @typedef {{ see_through: boolean, graph: string, variant: string }} EntrySettings */

/**
 * @typedef {{
 *   choose: (entry: number) => void,
 *   exchange: (one: number, other: number) => void,
 *   set: (entry: number, values: EntrySettings) => void,
 * }} Host
 */

/**
 * A choice with its words before it; what is chosen and gone stays in it.
 * @param {string} label
 * @param {string} value
 * @param {string[][]} choices keys with their words
 * @param {(key: string) => void} choose
 */
function choice(label, value, choices, choose) {
  const known = choices.some(([key]) => key === value) ? choices : [...choices, [value, "one that is gone"]];
  const field = h(
    "select",
    { class: "field", onchange: () => choose(field.value) },
    ...known.map(([key, words]) => h("option", { value: key, selected: key === value }, words)),
  );
  return h("label", { class: "row" }, h("span", {}, label), field);
}

export class PalettePanel {
  /**
   * @param {HTMLElement} place
   * @param {Host} host
   */
  constructor(place, host) {
    this.host = host;
    /** @type {BlockModelState | null} */
    this.state = null;
    this.entry = 1;
    this.isOnlyUsed = false;
    /** The graphs that can show in place of a tile. @type {SurfaceChoice[]} */
    this.graphs = [];
    this.search = h("input", {
      class: "field",
      type: "search",
      placeholder: "Find an entry",
      "aria-label": "Find an entry",
      oninput: () => this.draw(),
    });
    this.used = h("input", {
      type: "checkbox",
      onchange: () => {
        this.isOnlyUsed = this.used.checked;
        this.draw();
      },
    });
    this.grid = h("div", { class: "entries", role: "listbox", "aria-label": "Palette" });
    this.about = h("div", { class: "entry-about" });
    place.replaceChildren(
      h("div", { class: "entries-head" }, this.search, h("label", {}, this.used, " used")),
      this.grid,
      this.about,
    );
    this.grid.addEventListener("keydown", (event) => this.#key(event));
  }

  /** Asks which graphs there are. */
  async refresh() {
    try {
      this.graphs = (await getJson("/api/blocks/surfaces")).graphs;
      this.#drawAbout();
    } catch (error) {
      tell(error);
    }
  }

  /** @param {BlockModelState} state @param {number} entry the one that is drawn with */
  show(state, entry) {
    this.state = state;
    this.entry = entry;
    this.draw();
  }

  /** @returns {EntryState[]} */
  get #shown() {
    const words = this.search.value.toLowerCase().split(/\s+/);
    return (this.state?.entries ?? []).filter(
      ({ name, number, uses }) =>
        words.every((word) => `${number} ${name}`.toLowerCase().includes(word)) && (uses > 0 || !this.isOnlyUsed),
    );
  }

  /** @param {EntryState} entry */
  #tile({ number, name, uses, is_tile, see_through, graph, stamp }) {
    const src = `/api/blocks/${this.state?.id}/entries/${number}/${stamp}.png`;
    const other = this.graphs.find((one) => one.graph === graph);
    const words = `${name}, entry ${number}, ${uses.toLocaleString("en")} blocks${see_through ? ", see-through" : ""}${other ? `, shows ${other.title}` : ""}`;
    return h(
      "button",
      {
        type: "button",
        class: `entry${is_tile || other ? "" : " missing"}`,
        role: "option",
        data: { entry: number },
        tabindex: number === this.entry ? 0 : -1,
        "aria-selected": String(number === this.entry),
        "aria-label": words,
        title: is_tile || other ? words : `${words}: the palette has no tile for it`,
        onclick: () => this.host.choose(number),
      },
      h("img", { src, alt: "", draggable: "false", loading: "lazy", width: 44, height: 44 }),
      h("span", {}, name),
      h("span", { class: "mono quiet" }, uses ? uses.toLocaleString("en") : ""),
    );
  }

  draw() {
    const had = this.grid.contains(document.activeElement);
    const { scrollTop } = this.grid;
    const shown = this.#shown;
    this.grid.replaceChildren(...shown.map((entry) => this.#tile(entry)));
    if (!shown.length)
      this.grid.append(
        h("p", { class: "quiet" }, this.state?.entries.length ? "No entry has that name." : "Choose a palette above."),
      );
    this.grid.scrollTop = scrollTop;
    if (had) this.#focus(this.entry);
    this.#drawAbout();
  }

  /** @param {number} entry */
  #focus(entry) {
    /** @type {HTMLElement | null} */ (this.grid.querySelector(`[data-entry="${entry}"]`))?.focus();
  }

  #drawAbout() {
    const found = this.state?.entries.find(({ number }) => number === this.entry);
    if (!found) return this.about.replaceChildren();
    const { number, name, uses, see_through, graph, variant } = found;
    /** @param {Partial<EntrySettings>} changed */
    const set = (changed) => this.host.set(number, { see_through, graph, variant, ...changed });
    const chosen = this.graphs.find((one) => one.graph === graph);
    const others = (this.state?.entries ?? []).filter((one) => one.number !== number);
    this.about.replaceChildren(
      h("h3", {}, `${number} · ${name}`),
      h("span", { class: "quiet" }, uses === 1 ? "1 block" : `${uses.toLocaleString("en")} blocks`),
      h(
        "label",
        {},
        h("input", {
          type: "checkbox",
          checked: see_through,
          onchange: () => set({ see_through: !see_through }),
        }),
        " Seen through: faces behind it stay",
      ),
      choice("Shows", graph, [["", "its tile"], ...this.graphs.map((one) => [one.graph, one.title])], (key) =>
        set({ graph: key, variant: "" }),
      ),
      chosen?.variants.length
        ? choice("Variant", variant, [["", "as it is"], ...chosen.variants.map((one) => [one.id, one.name])], (key) =>
            set({ variant: key }),
          )
        : "",
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-haspopup": "menu",
          disabled: !others.length,
          onclick: (/** @type {Event} */ event) =>
            menu(
              /** @type {HTMLElement} */ (event.currentTarget),
              others.map((one) => [`${one.number} · ${one.name}`, () => this.host.exchange(number, one.number)]),
            ),
        },
        "Exchange everywhere with …",
      ),
    );
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const columns = 4;
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns }[event.key];
    if (!by) return;
    event.preventDefault();
    const shown = this.#shown;
    const at = shown.findIndex(({ number }) => number === this.entry);
    const next = shown[Math.min(shown.length - 1, Math.max(0, at + by))];
    if (!next) return;
    this.host.choose(next.number);
    this.#focus(next.number);
  }
}
