/** Automatic exposure: the core measures what the stage shows, whenever that has changed and stands still. */
import { getJson } from "moth/base/api.js";
import { tell } from "moth/base/notices.js";

const CALM = 300;

export class Exposing {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    this.isOn = false;
    this.timer = 0;
    /** What was measured last. */
    this.measured = "";
    stage.addEventListener("drawn", () => this.#soon());
    model.addEventListener("state", () => this.#soon());
  }

  toggle() {
    this.isOn = !this.isOn;
    this.measured = "";
    if (this.isOn) this.#soon();
    else this.stage.lighting.setExposure(null);
  }

  #soon() {
    if (!this.isOn) return;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.#measure().catch(tell), CALM);
  }

  async #measure() {
    const { model, stage } = this;
    if (!this.isOn || stage.isMoving || !model.state) return;
    const query = new URLSearchParams({ ...stage.view, variant: model.variant });
    query.delete("exposure");
    const asked = `${model.state.stamp} ${query}`;
    if (asked === this.measured) return;
    this.measured = asked;
    const { exposure } = await getJson(`${model.url}/exposure?${query}`);
    if (this.isOn && asked === this.measured) stage.lighting.setExposure(exposure);
  }
}
