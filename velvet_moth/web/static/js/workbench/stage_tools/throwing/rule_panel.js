/** The rule of placing: which one the graph has, and each of its parts as a small curve. */
import { getJson, postForm, postJson, send } from "moth/base/api.js";
import { askText, menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { stopsField } from "moth/fields/stops.js";

/** @typedef {import("../../../types.d.ts").RuleCurve} RuleCurve */
/** @typedef {import("../../../types.d.ts").Axis} Axis */

/** Beyond the last point so much more is shown, as a share. */
const MORE = 1.25;

/**
 * @param {Axis} axis
 * @param {number[]} numbers that must be seen
 * @returns {import("../../../fields/stops.js").Side}
 */
function side({ name, unit, low, high }, numbers) {
  const largest = Math.max(...numbers, low);
  const to = high <= 1 || high === 90 ? high : Math.min(high, Number((largest * MORE).toPrecision(2)) || high);
  return { name, unit, from: low > 0.1 ? 0 : low, to, low, high };
}

/** @param {number[]} flat @returns {[number, number][]} */
const pairs = (flat) => Array.from({ length: flat.length / 2 }, (_, at) => [flat[at * 2], flat[at * 2 + 1]]);

export class RulePanel {
  /**
   * @param {HTMLElement} place
   * @param {import("./rule_model.js").RuleModel} rule
   */
  constructor(place, rule) {
    this.place = place;
    this.rule = rule;
    this.settings = rule.graph.settings;
    /** @type {{ id: number, name: string }[]} */
    this.rules = [];
    rule.addEventListener("state", () => this.draw());
    place.addEventListener("keydown", (event) => {
      if (!(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      event.preventDefault();
      event.stopPropagation();
      void (key === "y" || event.shiftKey ? rule.redo() : rule.undo());
    });
  }

  async load() {
    ({ rules: this.rules } = await getJson("/api/rules"));
    this.draw();
  }

  draw() {
    const { rule } = this;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const choice = h(
      "select",
      { class: "field", "aria-label": "Rule of placing", data: { focus: "rule.choice" } },
      h("option", { value: "" }, rule.first.name),
      this.rules.map(({ id, name }) => h("option", { value: String(id) }, name)),
    );
    choice.value = rule.key;
    choice.addEventListener("change", () => void rule.graph.edit({ op: "set_rule", value: choice.value }));
    const step = (/** @type {string} */ words, /** @type {string} */ what, /** @type {() => Promise<boolean>} */ act) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          disabled: !what,
          title: what ? `${words}: ${what}` : `Nothing to ${words.toLowerCase()}`,
          "aria-label": `${words} in the rule`,
          onclick: () => void act(),
          data: { focus: `rule.${words}` },
        },
        words,
      );
    const more = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-haspopup": "menu",
        "aria-label": "More about the rule",
        onclick: () => menu(more, this.#entries()),
        data: { focus: "rule.more" },
      },
      "⋯",
    );
    this.place.replaceChildren(
      h(
        "div",
        { class: "row" },
        choice,
        step("Undo", rule.state.undo, () => rule.undo()),
        step("Redo", rule.state.redo, () => rule.redo()),
        more,
      ),
      h(
        "ul",
        { class: "rule-parts" },
        Object.keys(this.settings.rule_parts).map((part) => this.#part(part)),
      ),
    );
    if (focus?.startsWith("rule."))
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }

  /** @param {string} part */
  #part(part) {
    const { name, words, across, up, fixed } = this.settings.rule_parts[part];
    const { rule } = this;
    const { points, between } = rule.curve(part);
    const isOwn = rule.state.changed_parts.includes(part);
    const kept = (/** @type {number[]} */ flat) => ({ points: pairs(flat), between: rule.curve(part).between });
    const ways = h(
      "select",
      { class: "field", "aria-label": `How ${name} goes from point to point` },
      Object.entries(this.settings.curve_ways).map(([key, way]) =>
        h("option", { value: key, title: way.words }, way.name),
      ),
    );
    ways.value = between;
    ways.addEventListener("change", () => {
      document.querySelector(".popover")?.remove();
      void rule.set(part, { points: rule.curve(part).points, between: /** @type {any} */ (ways.value) });
    });
    const first = h(
      "button",
      {
        type: "button",
        class: "button small",
        disabled: !isOwn,
        onclick: () => {
          document.querySelector(".popover")?.remove();
          void rule.set(part, null);
        },
      },
      "As at first",
    );
    const field = stopsField({
      value: points.flat(),
      kind: "curve",
      label: `${name}: ${up.name.toLowerCase()} by ${across.name.toLowerCase()}`,
      key: `rule.part.${part}`,
      frame: {
        across: side(
          across,
          points.map(([x]) => x),
        ),
        up: side(
          up,
          points.map(([, y]) => y),
        ),
        between,
        isFixed: fixed,
      },
      more: [h("p", { class: "quiet" }, words), h("div", { class: "row" }, fixed ? "" : ways, first)],
      drag: (flat) => rule.drag(part, kept(flat)),
      keep: (flat) => void rule.set(part, kept(flat)),
    });
    const unit = (/** @type {number} */ number, /** @type {string} */ of) => `${number}${of ? ` ${of}` : ""}`;
    const [low, high] = [points[0], points[points.length - 1]];
    const said =
      points.length > 1
        ? `${unit(low[1], up.unit)} to ${unit(high[1], up.unit)}, at ${unit(low[0], across.unit)} to ${unit(high[0], across.unit)}`
        : unit(low[1], up.unit);
    return h(
      "li",
      { class: isOwn ? "own" : "", title: words },
      h("span", { class: "rule-name" }, name),
      field,
      h("span", { class: "quiet" }, said),
    );
  }

  /** @returns {[string, () => void][]} */
  #entries() {
    const { rule } = this;
    const { graph } = rule;
    const own = (/** @type {() => Promise<unknown>} */ act) => () => void act().catch(tell);
    const use = async (/** @type {{ id: number }} */ made) => {
      await graph.edit({ op: "set_rule", value: String(made.id) });
      await this.load();
    };
    /** @type {[string, () => void][]} */
    const entries = [
      ["New rule, as the first", own(async () => use(await postJson("/api/rules", {})))],
      ["Bring one in from a file …", own(() => this.#bring(use))],
    ];
    if (!rule.state.id) return entries;
    const { name } = rule.state;
    return [
      ["Rename …", own(() => this.#rename(name))],
      ["Copy", own(async () => use(await postJson(`${rule.url}/copy`, {})))],
      ["Save as a file", () => h("a", { href: `${rule.url}/export.json`, download: "" }).click()],
      ["Delete", own(() => this.#delete(name))],
      ...entries,
    ];
  }

  /** @param {string} before */
  async #rename(before) {
    const name = await askText("Rename the rule", before);
    if (name && name !== before && (await this.rule.edit({ op: "set_rule_name", name }))) await this.load();
  }

  /** @param {string} name */
  async #delete(name) {
    const { url, graph } = this.rule;
    await send(url, { method: "DELETE" });
    await graph.edit({ op: "set_rule", value: "" });
    await this.load();
    notice(`The rule ${name} is deleted.`, {
      action: "Bring it back",
      act: () =>
        void postJson(`${url}/restore`, {})
          .then(async (back) => {
            await graph.edit({ op: "set_rule", value: String(back.id) });
            await this.load();
          })
          .catch(tell),
    });
  }

  /** @param {(made: { id: number }) => Promise<void>} use */
  async #bring(use) {
    const input = h("input", { type: "file", accept: ".json,application/json" });
    input.addEventListener("change", () => {
      const [file] = input.files ?? [];
      if (file) void postForm("/api/rules/import", { file }).then(use).catch(tell);
    });
    input.click();
  }
}
