/** The brush in the room of meshes: on the painted step that is open, seen as the layer that is looked at. */
import { isTyping } from "moth/base/dom.js";
import { LAYERS } from "moth/brush/stroke.js";
import { Strokes } from "moth/brush/strokes.js";

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
    this.looking = looking;
    this.sizedFor = "";
    this.strokes = new Strokes(stage, {
      url: () => `/api/meshes/${mesh()?.id}/stack`,
      stack: () => steps().stack,
      step: () => this.step,
      kinds: steps().kinds,
      edit: (operation) => steps().edit(operation),
      seen: (vertices, values) => this.#see(vertices, values),
      value: (vertex) => this.#valueAt(vertex),
      view: {
        seen: () => ({ layer: this.layer, isMask: looking.isMasking }),
        see: (layer, isMask) => {
          looking.isMasking = isMask;
          if (this.step) steps().choose(this.step.id, layer);
        },
      },
    });
    stage.canvas.ownerDocument.addEventListener("keydown", (event) => {
      if (event.key.toLowerCase() !== "b" || isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (this.step) this.brush.put(!this.brush.isOn);
    });
  }

  get brush() {
    return this.strokes.brush;
  }

  get panel() {
    return this.strokes.panel;
  }

  /** The painted step that is open. */
  get step() {
    const { steps, chosen, kinds } = this.steps();
    const found = steps.find(({ id }) => id === chosen);
    return found && kinds.get(found.step)?.settings.some(({ kind }) => kind === "strokes") ? found : undefined;
  }

  /** The layer that is looked at. */
  get layer() {
    const { layer } = this.steps();
    return LAYERS.find((one) => one === layer) ?? LAYERS[0];
  }

  /** What is looked at has at a vertex. @param {number} vertex */
  #valueAt(vertex) {
    const { numbers } = this.looking.flow;
    return numbers ? numbers[vertex * 3 + 2] : this.stage.mesh.geometry.getAttribute("colour").array[vertex * 4];
  }

  /**
   * Puts what the brush has changed onto the stage.
   * @param {Uint32Array} vertices
   * @param {Float32Array} values four for each vertex
   */
  #see(vertices, values) {
    if (this.looking.flow.numbers) return this.looking.flow.change(vertices, values);
    const colour = this.stage.mesh.geometry.getAttribute("colour");
    // Of a combed step the other layer is how much was combed.
    const layer = this.strokes.combs ? LAYERS.length - 1 : LAYERS.indexOf(this.layer);
    for (let at = 0; at < vertices.length; at += 1) colour.array[vertices[at] * 4] = values[at * 4 + layer];
    colour.needsUpdate = true;
    this.stage.moved();
  }

  /** Another step, or another state of it: the panel follows, and a brush without a painted step is put away. */
  async follow() {
    const mesh = this.mesh();
    if (mesh && this.sizedFor !== mesh.id) {
      this.sizedFor = mesh.id;
      this.brush.fit(Math.hypot(...mesh.size));
    }
    await this.strokes.follow(mesh?.drawn ?? "");
  }
}
