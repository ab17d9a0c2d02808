/** The decals of a graph of that kind: where they lie is pressed on the stage, the rest is typed. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { colourField } from "moth/fields/colour_picker.js";
import { numbersField } from "moth/fields/fields.js";
import { notice, tell } from "moth/base/notices.js";
import { viewAt } from "moth/stage/eye.js";

/** @typedef {import("../../types.d.ts").Decal} Decal */

export class DecalsPanel {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {HTMLElement} place
   */
  constructor(model, stage, place) {
    this.model = model;
    this.stage = stage;
    this.place = place;
    /** The place in the list that is to be placed by a press on the stage; -1 for none. */
    this.putting = -1;
    stage.canvas.addEventListener("click", (event) => this.#press(event), { capture: true });
    document.addEventListener("keydown", (event) => {
      if (event.key === "Escape" && this.putting >= 0) this.#put(-1);
    });
  }

  get #decals() {
    return [...this.model.state.decals];
  }

  /** @param {Decal[]} decals */
  #set(decals) {
    void this.model.edit({ op: "set_decals", value: decals });
  }

  /** @param {number} at @param {Partial<Decal>} change */
  #change(at, change) {
    this.#set(this.#decals.map((decal, index) => (index === at ? { ...decal, ...change } : decal)));
  }

  /** @param {number} at */
  #put(at) {
    this.putting = at;
    byId("stage-area").classList.toggle("putting", at >= 0);
    this.draw();
  }

  /** @param {MouseEvent} event */
  #press(event) {
    if (this.putting < 0) return;
    event.preventDefault();
    void this.#putAt(event.offsetX, event.offsetY).catch(tell);
  }

  /** @param {number} x @param {number} y */
  async #putAt(x, y) {
    const found = await getJson(`${this.model.url}/decal?${new URLSearchParams(viewAt(this.stage, x, y))}`);
    if (!found) return void notice("Nothing lies behind this pixel.", { mend: "Press on the wall or the floor." });
    const [decals, at] = [this.#decals, this.putting];
    const { place, turn, tilt } = found;
    // What is put elsewhere stays as it is otherwise.
    decals.splice(at, 1, decals[at] ? { ...decals[at], place, turn, tilt } : found);
    this.#put(-1);
    this.#set(decals);
  }

  draw() {
    const { document: graph } = this.model.state;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const put = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(this.putting >= 0),
        disabled: !graph.backdrop,
        onclick: () => this.#put(this.putting >= 0 ? -1 : this.#decals.length),
        data: { focus: "decals.put" },
      },
      this.putting >= 0 ? "Press on the stage …" : "Place a decal",
    );
    const back = h(
      "button",
      {
        type: "button",
        class: "button small",
        disabled: !graph.decals.length,
        title: "Those the backdrop has by itself",
        onclick: () => this.#set([]),
      },
      "First places",
    );
    const hidden = (/** @type {string} */ words) => h("span", { class: "sr-only" }, words);
    const heads = [hidden("Order"), "Number", "Size, m", "Depth", "Roll, °", "Tint", hidden("Changes")].map((words) =>
      h("th", { scope: "col" }, words),
    );
    this.place.replaceChildren(
      h("h2", { class: "eyebrow" }, "Decals, the last on top"),
      h(
        "table",
        {},
        h("thead", {}, h("tr", {}, heads)),
        h(
          "tbody",
          {},
          this.#decals.map((decal, at) => this.#row(decal, at)),
        ),
      ),
      h("div", { class: "row" }, put, back),
    );
    if (focus?.startsWith("decals."))
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }

  /** @param {Decal} decal @param {number} at */
  #row(decal, at) {
    const label = `decal ${at + 1}`;
    const number = (
      /** @type {string} */ name,
      /** @type {number[]} */ value,
      /** @type {number} */ step,
      /** @type {(value: number[]) => Partial<Decal>} */ made,
    ) => {
      const keep = (/** @type {number[]} */ v) => this.#change(at, made(v));
      return h(
        "td",
        {},
        numbersField({ value, label: `${name} of ${label}`, step, keep, key: `decals.${at}.${name}`, tight: true }),
      );
    };
    const act = (
      /** @type {string} */ words,
      /** @type {string} */ sign,
      /** @type {() => void} */ press,
      off = false,
    ) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-label": `${words} ${label}`,
          title: words,
          disabled: off,
          onclick: press,
          data: { focus: `decals.${at}.${words}` },
        },
        sign,
      );
    const move = (/** @type {number} */ by) => {
      const decals = this.#decals;
      decals.splice(at + by, 0, ...decals.splice(at, 1));
      this.#set(decals);
    };
    const [width, height, depth] = decal.size;
    const tint = colourField({
      value: decal.tint,
      label: `Tint of ${label}`,
      keep: (v) => this.#change(at, { tint: /** @type {[number, number, number]} */ (v) }),
      drag: () => {},
      key: `decals.${at}.tint`,
      text: false,
    });
    const last = this.model.state.decals.length - 1;
    return h(
      "tr",
      {},
      h("th", { scope: "row" }, String(at + 1)),
      number("Number", [decal.index], 1, ([index]) => ({ index })),
      number("Size", [width, height], 0.01, ([w, h_]) => ({ size: [w, h_, depth] })),
      number("Depth", [depth], 0.01, ([d]) => ({ size: [width, height, d] })),
      number("Roll", [decal.roll], 1, ([roll]) => ({ roll })),
      h("td", {}, tint),
      h(
        "td",
        { class: "decal-acts" },
        act("Put elsewhere", "↔", () => this.#put(at)),
        act("Lower", "↑", () => move(-1), at === 0),
        act("Raise", "↓", () => move(1), at === last),
        act("Remove", "×", () => this.#set(this.#decals.filter((_, index) => index !== at)), last === 0),
      ),
    );
  }
}
