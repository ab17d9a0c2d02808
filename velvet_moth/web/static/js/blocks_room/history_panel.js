/** The history of the model that is drawn, in the place of its palette. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { StepList } from "moth/base/step_list.js";

export class HistoryPanel {
  /** @param {() => import("./block_model.js").BlockModel | null} model the one that is drawn */
  constructor(model) {
    this.model = model;
    this.steps = new StepList("The model is here now", (number) => void model()?.ask("jump", { number }));
    this.panel = h(
      "section",
      { class: "part-panel", "aria-label": "History", hidden: true },
      h("h2", { class: "eyebrow" }, "History"),
      this.steps.list,
    );
    byId("show-history").addEventListener("click", () => this.toggle());
  }

  toggle() {
    this.panel.hidden = !this.panel.hidden;
    byId("show-history").setAttribute("aria-pressed", String(!this.panel.hidden));
    byId("facts").classList.toggle("with-history", !this.panel.hidden);
    void this.refresh().then(() => this.steps.focus());
  }

  /** Asks for the steps again, where they are seen. */
  async refresh() {
    const model = this.model();
    if (this.panel.hidden) return;
    try {
      const { steps } = model ? await getJson(`${model.url}/history`) : { steps: [] };
      if (model === this.model()) this.steps.show(steps);
    } catch (error) {
      tell(error);
    }
  }
}
