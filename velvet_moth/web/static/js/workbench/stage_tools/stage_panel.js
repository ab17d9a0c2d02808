/** The stage's own bar and the timeline: form, light, time, what is shown, how fast it is. */
import { getJson } from "moth/base/api.js";
import { byId } from "moth/base/dom.js";
import { sources } from "moth/fields/eyedropper.js";
import { notice, tell } from "moth/base/notices.js";
import { KeyedStage } from "moth/workbench/stage_tools/keyed_stage.js";
import { FormChoice } from "moth/workbench/stage_tools/form_choice.js";
import { Staging } from "moth/workbench/stage_tools/staging.js";
import { shaderValues } from "moth/workbench/model/shader_values.js";
import { timeControls } from "moth/workbench/stage_tools/time_controls.js";

/** @typedef {import("../../types.d.ts").ShaderState} ShaderState */

/** @param {number} seconds */
const clock = (seconds) => `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, "0")}`;

export class StagePanel {
  /**
   * @param {import("../model/model.js").GraphModel} model the graph being edited
   * @param {import("../model/model.js").GraphModel} staged the graph whose surface is shown; another while a motif is edited
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {import("../graph/graph_pane.js").GraphPane} pane
   */
  constructor(model, staged, stage, pane) {
    this.pane = pane;
    this.model = model;
    this.staged = staged;
    this.stage = stage;
    this.form = new FormChoice(staged, stage);
    /** The revision on the stage. @type {number | undefined} */
    this.revision = undefined;
    for (const part of /** @type {const} */ (["rig", "backdrop"]))
      byId(part).addEventListener("change", () => void staged.edit({ op: `set_${part}`, value: byId(part).value }));
    byId("kind").addEventListener("change", () => void model.edit({ op: "set_kind", value: byId("kind").value }));
    byId("play").addEventListener("click", () => this.play(!stage.isPlaying));
    byId("light").addEventListener("click", () => {
      stage.lightMode = !stage.lightMode;
      byId("light").setAttribute("aria-pressed", String(stage.lightMode));
    });
    byId("look").addEventListener("change", () => void model.setShown(byId("look").value));
    byId("show-lit").addEventListener("click", () => void model.setShown(""));
    stage.addEventListener("drawn", () => this.#drawn());
    stage.addEventListener("time", () => this.#clock());
    this.staging = new Staging(staged, stage, new KeyedStage(staged, stage));
    timeControls(staged, stage);
    stage.addEventListener("failed", (event) => this.#failed(/** @type {CustomEvent} */ (event).detail));
    /** The outer graph's shader with the values of the motif being edited. @type {ShaderState | null} */
    this.opened = null;
    for (const one of new Set([model, staged])) one.addEventListener("state", () => void this.#state().catch(tell));
    model.addEventListener("dragged", () => {
      const values = this.#values();
      if (values) stage.setValues(values);
      stage.moved();
    });
    sources.add({ element: stage.canvas, read: () => this.#pixels() });
    this.play(false);
  }

  /** Whose shader is on the stage: an output that is shown by itself is always of the graph being edited. */
  get #lit() {
    return this.model.shown ? this.model : this.staged;
  }

  #values() {
    if (this.#lit === this.model) return shaderValues(this.model);
    return this.opened && shaderValues(this.staged, this.staged.variant, this.opened, this.model);
  }

  /** The shader on the stage: of this graph, or of the outer one, opened for the values of this motif. */
  async #shader() {
    if (this.#lit === this.model) return this.model.state.shader;
    const { url, variant } = this.staged;
    const asked = new URLSearchParams({ variant, inside: this.model.state.motif, shader: this.opened?.hash ?? "" });
    const found = await getJson(`${url}/shader?${asked}`);
    this.opened = { ...this.opened, ...found };
    return /** @type {ShaderState} */ (this.opened);
  }

  /** The stage's picture, for picking colours. */
  async #pixels() {
    const { clientWidth: width, clientHeight: height } = this.stage.canvas;
    return { width, height, data: await this.stage.snapshot(width, height), isUpsideDown: true };
  }

  /** @param {boolean} playing */
  play(playing) {
    this.stage.setPlaying(playing);
    const button = byId("play");
    button.setAttribute("aria-pressed", String(playing));
    button.setAttribute("aria-label", playing ? "Pause time" : "Play time");
    button.firstElementChild.textContent = playing ? "❚❚" : "▶";
    byId("stage-area").classList.toggle("paused", !playing);
    this.#clock();
  }

  #clock() {
    const words = clock(this.stage.time);
    byId("timeline-clock").textContent = this.stage.isPlaying ? words : `${words} paused`;
    if (document.activeElement !== byId("time")) byId("time").value = String(this.stage.time);
  }

  #drawn() {
    if (this.stage.isPlaying) this.#clock();
    const { isMoving } = this.stage.resolution;
    byId("frame-time").textContent = isMoving ? `${Math.round(this.stage.frameTime)} ms` : "still";
  }

  /** Shows the graph as it is, after something else was shown. */
  restore() {
    return this.#state().catch(tell);
  }

  async #state() {
    const lit = this.#lit;
    // Of two graphs one may still be on its way.
    if (!lit.state || !this.model.state) return;
    const { shown } = this.model.state;
    const graph = (this.staged.state ?? lit.state).document;
    const state = this.staged.state ?? lit.state;
    this.form.show(graph.form, state.mesh);
    void this.staging.stand(state, lit.state.shader.projected);
    for (const part of /** @type {const} */ (["rig", "backdrop"]))
      if (byId(part).value !== graph[part]) byId(part).value = graph[part];
    byId("kind").value = this.model.state.document.kind;
    this.#name(shown);
    const shader = await this.#shader();
    const values = this.#values();
    // Meanwhile another graph may have come to be shown.
    if (!values || lit !== this.#lit) return;
    /** @type {number} */
    const revision = lit.state.revision;
    if (this.revision !== undefined && revision !== this.revision) this.stage.rememberShown();
    this.revision = revision;
    await this.stage.setShader(shader, values);
  }

  /** @param {import("../../stage/materials.js").Fault} fault */
  #failed({ words, log }) {
    const { model, pane } = this;
    // The shader names kinds of cards, since the names people give them make no other shader.
    const nodes = [...model.nodes.keys()].filter((id) => id !== "dock" && model.typeOf(id).name === words);
    const names = nodes.map((id) => model.nameOf(id));
    const where = names.length ? ` The fault lies at ${names.join(" or ")}.` : words && ` The fault lies in: ${words}.`;
    const [node] = nodes;
    notice(`This shader does not build on this machine's graphics.${where} The last good picture stays.`, {
      mend: `Change or mute that card, or take the last edit back. The graphics say: ${log.split("\n")[0]}`,
      wrong: true,
      ...(node ? { action: "Show the card", act: () => pane.focus(node) } : {}),
    });
  }

  /** @param {string} shown */
  #name(shown) {
    const [node, output] = shown.split(".");
    const button = byId("show-lit");
    const isLook = node === "stage";
    byId("look").value = isLook ? shown : "";
    button.hidden = !shown || isLook;
    if (button.hidden) return;
    const words = `${this.#nameOf(node, output)} ×`;
    button.textContent = words;
    button.title = "Shown by itself. Press to go back to the lit surface.";
    button.setAttribute("aria-label", `${words} Back to lit`);
  }

  /**
   * @param {string} node
   * @param {string} output
   */
  #nameOf(node, output) {
    const type = this.model.typeOf(node);
    const named = [...type.outputs, ...type.inputs].find((o) => o.key === output)?.name ?? output;
    if (node === "dock") return named;
    return type.outputs.length > 1 ? `${this.model.nameOf(node)}: ${named}` : this.model.nameOf(node);
  }
}
