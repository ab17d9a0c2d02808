/** The history beside the graph: every step in words, versions kept by name, comparing with them. */
import { getJson, postJson, send } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { StepList, when } from "moth/base/step_list.js";
import { sidePanel, togglePanel } from "moth/workbench/panels/side_panel.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../../types.d.ts").Step} Step */
/** @typedef {{ id: number, name: string, revision: number, made: string }} Version */

export class HistoryPanel {
  /**
   * @param {GraphPane} pane
   * @param {import("./comparison.js").Comparison} comparison
   */
  constructor(pane, comparison) {
    this.pane = pane;
    this.comparison = comparison;
    /** @type {{ steps: Step[], versions: Version[] }} */
    this.found = { steps: [], versions: [] };
    this.steps = new StepList("The graph stands here", (number) => void pane.model.ask("jump", { number }));
    this.versions = h("ul", { class: "versions", "aria-label": "Versions" });
    this.name = h("input", {
      class: "field",
      maxlength: 80,
      required: true,
      "aria-label": "Name of the version",
      placeholder: "Name this state",
    });
    const keeping = h(
      "form",
      { class: "keep-version" },
      this.name,
      h("button", { class: "button small" }, "Keep version"),
    );
    keeping.addEventListener("submit", (event) => {
      event.preventDefault();
      void this.#keep();
    });
    const toggle = () => this.toggle();
    this.panel = sidePanel(
      pane,
      { id: "history", name: "History", title: "Versions", toggle },
      keeping,
      this.versions,
      h("h2", { class: "eyebrow" }, "Steps"),
      this.steps.list,
    );
    this.panel.addEventListener("keydown", (event) => this.#key(event));
    pane.model.addEventListener("state", () => void this.#load());
  }

  toggle() {
    if (togglePanel(this.pane, this.panel, () => this.toggle())) this.#load().then(() => this.steps.focus());
  }

  async #load() {
    if (this.panel.hidden) return;
    try {
      this.found = await getJson(`${this.pane.model.url}/history`);
      this.#show();
    } catch (error) {
      tell(error);
    }
  }

  #show() {
    const { steps, versions } = this.found;
    this.steps.show(steps);
    this.versions.replaceChildren(...versions.map((version) => this.#version(version)));
    if (!versions.length)
      this.versions.append(
        h("li", { class: "quiet" }, "None yet. A version keeps a state by name, to compare with and come back to."),
      );
  }

  /** @param {Version} version */
  #version(version) {
    const { id, name, made } = version;
    /** @type {(words: string, act: () => void, label?: string) => HTMLElement} */
    const button = (words, act, label = `${words} ${name}`) =>
      h("button", { type: "button", class: "button small", "aria-label": label, onclick: act }, words);
    return h(
      "li",
      { data: { version: id } },
      h("p", {}, h("strong", {}, name), h("span", { class: "mono quiet" }, ` ${when(made)}`)),
      h(
        "div",
        { class: "row" },
        button("Compare", () => void this.comparison.open(id)),
        button("Restore", () => void this.#restore(version)),
        button("×", () => void this.#remove(version), `Remove version ${name}`),
      ),
    );
  }

  async #keep() {
    const { model } = this.pane;
    try {
      // What is on its way belongs to the version too.
      await model.queue;
      await postJson(`${model.url}/versions`, { name: this.name.value });
      notice(`Kept “${this.name.value}”.`);
      this.name.value = "";
      await this.#load();
    } catch (error) {
      tell(error);
    }
  }

  /** @param {Version} version */
  async #restore({ id, name }) {
    if (await this.pane.model.ask(`versions/${id}/restore`, {})) {
      notice(`“${name}” is back, as a new step. Undo returns to what came after it.`);
    }
  }

  /** @param {Version} version */
  async #remove({ id, name }) {
    if (this.comparison.found?.version.id === id) this.comparison.close();
    try {
      await send(`${this.pane.model.url}/versions/${id}`, { method: "DELETE" });
      notice(`Removed the version “${name}”. The graph is as it was.`);
      await this.#load();
    } catch (error) {
      tell(error);
    }
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const all = [...this.panel.querySelectorAll("button, input")];
    const at = all.indexOf(/** @type {Element} */ (document.activeElement));
    const next = all[at + (event.key === "ArrowDown" ? 1 : -1)];
    if (next instanceof HTMLElement) next.focus();
    event.preventDefault();
  }
}
