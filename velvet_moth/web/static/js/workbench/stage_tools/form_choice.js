/** Which form the surface is judged on, and of how many cells it is made where that can be chosen. */
import { byId } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { kindOf } from "moth/stage/forms.js";

export class FormChoice {
  /**
   * @param {import("../model/model.js").GraphModel} staged
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(staged, stage) {
    this.stage = stage;
    this.staged = staged;
    this.select = byId("form");
    this.cells = byId("cells");
    /** The form that is shown. */
    this.key = "";
    this.select.addEventListener("change", () => this.#choose(this.select.value));
    this.cells.addEventListener("change", () => this.#choose(`${this.select.value}:${this.cells.value || "-"}`));
    this.show(this.select.dataset.form ?? this.select.value);
  }

  /** Asks the graph, which may refuse: then what was chosen before stands there again. @param {string} key */
  async #choose(key) {
    await this.staged.edit({ op: "set_form", value: key });
    this.#tell();
  }

  /** @param {string} key as the graph has it */
  show(key) {
    if (key === this.key) return;
    this.key = key;
    this.#tell();
    this.stage.setForm(key).catch(tell);
  }

  #tell() {
    const [kind, told] = [kindOf(this.key), this.key.split(":")[1]];
    const choice = this.stage.settings.cells[kind];
    this.select.value = kind;
    byId("cells-field").hidden = !choice;
    if (!choice) return;
    Object.assign(this.cells, { min: choice.low, max: choice.high, value: told ?? choice.default });
  }
}
