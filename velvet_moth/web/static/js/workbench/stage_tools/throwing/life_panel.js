/** How decals live: how they spread, how long they stay, and what becomes of them. */
import { h } from "moth/base/dom.js";
import { numbersField } from "moth/fields/fields.js";

/** @typedef {import("../../../types.d.ts").Spread} Spread */

export class LifePanel {
  /**
   * @param {HTMLElement} place
   * @param {import("../../model/model.js").GraphModel} model
   */
  constructor(place, model) {
    this.place = place;
    this.model = model;
  }

  draw() {
    const { spread } = this.model.state.document;
    const { ways, easings, decal_endings: endings } = this.model.settings;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const set = (/** @type {Partial<Spread>} */ change) =>
      void this.model.edit({ op: "set_spread", value: { ...spread, ...change } });
    const number = (
      /** @type {string} */ words,
      /** @type {"smallest" | "speed" | "hold" | "over"} */ key,
      /** @type {string} */ title,
    ) =>
      h(
        "label",
        { class: "line", title },
        h("span", {}, words),
        numbersField({
          value: [spread[key]],
          label: words,
          keep: ([one]) => set({ [key]: Math.max(one, 0) }),
          key: `life.${key}`,
        }),
      );
    const choice = (
      /** @type {string} */ words,
      /** @type {"easing" | "ending"} */ key,
      /** @type {[string, string][]} */ options,
    ) => {
      const select = h(
        "select",
        { class: "field", "aria-label": words, data: { focus: `life.${key}` } },
        options.map(([value, name]) => h("option", { value }, name)),
      );
      select.value = spread[key];
      select.addEventListener("change", () => set({ [key]: /** @type {any} */ (select.value) }));
      return h("label", { class: "line" }, h("span", {}, words), select);
    };
    this.place.replaceChildren(
      number("Begins as wide as, m", "smallest", "The width of a decal when it begins"),
      number("Spreads by, m/s", "speed", "0: it has its whole size at once"),
      choice(
        "In which way",
        "easing",
        easings.map((key) => [key, ways[key].name]),
      ),
      number("Then stays for, s", "hold", "Seconds with its whole size"),
      choice("In the end", "ending", Object.entries(endings)),
      number("Takes for that, s", "over", "Seconds of drawing in, or drying"),
    );
    if (focus?.startsWith("life."))
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }
}
