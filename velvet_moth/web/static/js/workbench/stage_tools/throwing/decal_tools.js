/** All that is done with decals, in four tabs: the list, throwing, the rule of placing, and how they live. */
import { byId, h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { followNews } from "moth/base/news.js";
import { DecalsPanel } from "moth/workbench/stage_tools/decals_panel.js";
import { LifePanel } from "moth/workbench/stage_tools/throwing/life_panel.js";
import { RuleModel } from "moth/workbench/stage_tools/throwing/rule_model.js";
import { RulePanel } from "moth/workbench/stage_tools/throwing/rule_panel.js";
import { ThrowPanel } from "moth/workbench/stage_tools/throwing/throw_panel.js";
import { Thrown } from "moth/workbench/stage_tools/throwing/thrown.js";

/** How long a hand on a curve rests until what was thrown lands again, in milliseconds. */
const CALM = 60;
const TABS = { list: "Decals", throw: "Throw", rule: "Rule", life: "Life" };

export class DecalTools {
  /**
   * @param {import("../../model/model.js").GraphModel} model
   * @param {import("../../../stage/stage.js").Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.place = byId("decals");
    this.open = "list";
    this.bar = h("div", { role: "tablist", class: "tabs", "aria-label": "What is done with decals" });
    /** @type {Record<string, HTMLElement>} */
    this.bodies = Object.fromEntries(
      Object.keys(TABS).map((key) => [
        key,
        h("div", { role: "tabpanel", id: `decal-tab-${key}`, "aria-label": TABS[/** @type {"list"} */ (key)] }),
      ]),
    );
    this.place.replaceChildren(this.bar, ...Object.values(this.bodies));
    this.rule = new RuleModel(model, model.settings.rule_parts);
    this.thrown = new Thrown(model, stage, () => this.rule.file);
    this.list = new DecalsPanel(model, stage, this.bodies.list);
    this.throwing = new ThrowPanel(this.bodies.throw, this.thrown);
    this.rules = new RulePanel(this.bodies.rule, this.rule);
    this.life = new LifePanel(this.bodies.life, model);
    let resting = 0;
    const land = () => {
      clearTimeout(resting);
      resting = window.setTimeout(() => this.thrown.land(), CALM);
    };
    this.rule.addEventListener("dragged", land);
    this.rule.addEventListener("state", land);
    let around = "";
    model.addEventListener("state", () => {
      const { document: graph, mesh } = model.state;
      this.rule.open(graph.rule);
      const now = `${graph.backdrop} ${mesh?.drawn}`;
      if (around && now !== around) land();
      around = now;
      this.draw();
    });
    this.bar.addEventListener("keydown", (event) => {
      const keys = Object.keys(TABS);
      const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      this.show(keys[(keys.indexOf(this.open) + by + keys.length) % keys.length]);
      /** @type {HTMLElement} */ (this.bar.querySelector("[aria-selected=true]")).focus();
    });
    followNews(
      (news) => this.rule.catchUp(news),
      () => void (this.rule.key && this.rule.load()),
    );
  }

  /** @param {string} tab */
  show(tab) {
    this.open = tab;
    if (tab !== "throw" && this.throwing.hand.isOn) this.throwing.put(false);
    if (tab === "rule") void this.rules.load().catch(tell);
    if (tab === "throw") void this.throwing.load().catch(tell);
    this.place.scrollIntoView({ block: "start" });
    this.draw();
  }

  draw() {
    const { model, open } = this;
    this.place.hidden = !model.state.shader.projected;
    if (this.place.hidden) return;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    this.bar.replaceChildren(
      ...Object.entries(TABS).map(([key, words]) =>
        h(
          "button",
          {
            type: "button",
            role: "tab",
            "aria-selected": String(key === open),
            "aria-controls": `decal-tab-${key}`,
            tabindex: key === open ? "0" : "-1",
            onclick: () => this.show(key),
            data: { focus: `decal-tools.${key}` },
          },
          words,
        ),
      ),
    );
    if (focus?.startsWith("decal-tools."))
      /** @type {HTMLElement | null} */ (this.bar.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
    for (const [key, body] of Object.entries(this.bodies)) body.hidden = key !== open;
    const shown = { list: this.list, throw: this.throwing, rule: this.rules, life: this.life }[
      /** @type {"list"} */ (open)
    ];
    shown.draw();
    if (open !== "throw") this.throwing.draw();
  }
}
