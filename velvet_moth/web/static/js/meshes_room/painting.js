/** The brush in the room of meshes: on the painted step that is open, seen as the layer that is looked at. */
import { getJson } from "moth/base/api.js";
import { isTyping } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { Brush } from "moth/brush/brush.js";
import { BrushPanel } from "moth/brush/panel.js";
import { LAYERS } from "moth/brush/stroke.js";

/** @typedef {import("./steps.js").MeshStackView} MeshStackView */

export class Painting {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {() => MeshStackView} steps
   * @param {() => import("../types.d.ts").MeshInfo | undefined} mesh
   * @param {import("./looking.js").Looking} looking
   */
  constructor(stage, steps, mesh, looking) {
    this.stage = stage;
    this.steps = steps;
    this.mesh = mesh;
    this.sizedFor = "";
    this.listed = "";
    /** The step that the brush was last turned to. */
    this.turnedTo = "";
    this.brush = new Brush(stage, {
      url: () => this.#url,
      step: () => this.step?.id ?? "",
      stack: () => steps().model?.stack,
      keep: (step, stroke) => steps().edit({ op: "add_stroke", step, stroke }),
      seen: (vertices, values) => this.#see(vertices, values),
      value: (vertex) => this.stage.mesh.geometry.getAttribute("colour").array[vertex * 4],
      picked: (place) => void this.#pick(place).catch(tell),
    });
    this.panel = new BrushPanel(this.brush, {
      nameOf: (layer) => this.#nameOf(layer),
      isKept: (layer) => this.#channelOf(layer) !== undefined,
      remove: (place) => void this.#edit({ op: "remove_stroke", step: this.step?.id ?? "", place }),
      others: () =>
        steps()
          .steps.filter((one) => one.step === "paint" && one.id !== this.step?.id)
          .map((one, at) => [one.id, String(one.values.name || `painted step ${at + 1}`)]),
      seen: () => ({ layer: this.layer, isMask: looking.isMasking }),
      see: (layer, isMask) => {
        looking.isMasking = isMask;
        if (this.step) steps().choose(this.step.id, layer);
      },
      move: (place, to) => void this.#edit({ op: "move_stroke", step: this.step?.id ?? "", place, to }),
    });
    stage.canvas.ownerDocument.addEventListener("keydown", (event) => {
      if (event.key.toLowerCase() !== "b" || isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (this.step) this.brush.put(!this.brush.isOn);
    });
  }

  get #url() {
    return `/api/meshes/${this.mesh()?.id}/stack`;
  }

  /** @param {number[]} place */
  async #pick([x, y, z]) {
    const query = new URLSearchParams({ x: String(x), y: String(y), z: String(z) });
    const { strokes } = await getJson(`${this.#url}/strokes/${this.step?.id}/at?${query}`);
    this.panel.point(strokes[0]);
  }

  /** @param {import("../types.d.ts").StackOperation} operation */
  async #edit(operation) {
    await this.brush.keeping;
    await this.steps().edit(operation);
  }

  /** The painted step that is open. */
  get step() {
    const { steps, chosen } = this.steps();
    return steps.find(({ id, step }) => id === chosen && step === "paint");
  }

  /** The layer that is looked at. */
  get layer() {
    const { layer } = this.steps();
    return LAYERS.find((one) => one === layer) ?? LAYERS[0];
  }

  /** The channel that is made of a layer of the open step. @param {string} layer */
  #channelOf(layer) {
    return this.steps().stack?.outputs.find((one) => one.step === this.step?.id && one.layer === layer);
  }

  /** What a layer of the open step means, where a channel is made of it. @param {string} layer */
  #nameOf(layer) {
    const found = this.#channelOf(layer);
    return found ? `${found.name} (${layer})` : layer;
  }

  /**
   * Puts what the brush has changed onto the stage.
   * @param {Uint32Array} vertices
   * @param {Float32Array} values four for each vertex
   */
  #see(vertices, values) {
    const colour = this.stage.mesh.geometry.getAttribute("colour");
    const layer = LAYERS.indexOf(this.layer);
    for (let at = 0; at < vertices.length; at += 1) colour.array[vertices[at] * 4] = values[at * 4 + layer];
    colour.needsUpdate = true;
    this.stage.moved();
  }

  /** Another step, or another state of it: the panel follows, and a brush without a painted step is put away. */
  async follow() {
    const { step } = this;
    if (!step && this.brush.isOn) this.brush.put(false);
    const mesh = this.mesh();
    if (mesh && this.sizedFor !== mesh.id) {
      this.sizedFor = mesh.id;
      this.brush.fit(Math.hypot(...mesh.size));
    }
    if (!step) return;
    // Where a step is edited, what the brush touches stays.
    if (this.turnedTo === step.id) this.panel.draw();
    else this.panel.turn();
    this.turnedTo = step.id;
    const key = JSON.stringify([mesh?.drawn, step.id, step.values.lines ?? []]);
    if (this.listed === key) return;
    this.listed = key;
    try {
      const { strokes } = await getJson(`${this.#url}/strokes/${step.id}`);
      if (this.listed === key) this.panel.show(strokes);
    } catch (error) {
      this.listed = "";
      tell(error);
    }
  }

  /** What was fetched while a stroke is drawn knows nothing of it yet. */
  seeAgain() {
    this.brush.stroke?.seeAgain();
  }
}
