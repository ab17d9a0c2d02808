/** Painting the mesh that the graph stands on: the lit surface follows the brush, and all that stands on the mesh once it is baked. */
import { getJson, postJson, send } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";
import { Brush } from "moth/brush/brush.js";
import { BrushPanel } from "moth/brush/panel.js";
import { LAYERS } from "moth/brush/stroke.js";
import { StackModel } from "moth/stacks/stack_model.js";

/** @typedef {import("../../types.d.ts").MeshStackState} MeshStackState */
/** @typedef {import("../../types.d.ts").StackOperation} StackOperation */

const SECOND = "second ";

/** The attribute and the component that a channel is in. @param {string} place such as "second red" */
const whereIs = (place) =>
  place.startsWith(SECOND)
    ? /** @type {const} */ ([`second_colour`, LAYERS.findIndex((one) => place === SECOND + one)])
    : /** @type {const} */ (["colour", LAYERS.findIndex((one) => place === one)]);

export class Painting {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    this.place = byId("painting");
    /** The stack of the mesh, while it is painted on. @type {StackModel<MeshStackState> | null} */
    this.stack = null;
    this.mesh = "";
    this.chosen = "";
    this.listed = "";
    this.brush = new Brush(stage, {
      url: () => this.#url,
      step: () => this.chosen,
      stack: () => this.stack?.stack,
      keep: async (step, stroke) => this.stack?.edit({ op: "add_stroke", step, stroke }),
      seen: (vertices, values) => this.#see(vertices, values),
      value: (vertex) => this.#valueAt(vertex),
      picked: (place) => void this.#pick(place).catch(tell),
    });
    this.panel = new BrushPanel(this.brush, {
      nameOf: (layer) => this.#channelOf(layer)?.name ?? layer,
      isKept: (layer) => this.#channelOf(layer) !== undefined,
      remove: (place) => void this.#edit({ op: "remove_stroke", step: this.chosen, place }),
      others: () => this.#painted.filter(({ id }) => id !== this.chosen).map((one) => [one.id, nameOf(one)]),
      move: (place, to) => void this.#edit({ op: "move_stroke", step: this.chosen, place, to }),
    });
    let wasOn = false;
    this.brush.addEventListener("changed", () => {
      if (wasOn && !this.brush.isOn) void this.#bake().catch(tell);
      wasOn = this.brush.isOn;
    });
    model.addEventListener("state", () => this.stack && model.state.document.mesh !== this.mesh && this.close());
    followNews(
      (news) => this.stack?.catchUp(news.mesh_stack, news),
      () => void this.stack?.load(),
    );
  }

  get #url() {
    return `/api/meshes/${this.mesh}/stack`;
  }

  get #painted() {
    return this.stack?.stack.steps.filter(({ step }) => step === "paint") ?? [];
  }

  /** The channel that a layer of the chosen step goes to. @param {string} layer */
  #channelOf(layer) {
    return this.stack?.stack.outputs.find((one) => one.step === this.chosen && one.layer === layer);
  }

  /** Opens it, or closes it where it is open. */
  async toggle() {
    if (this.stack) return this.close();
    const { mesh, form } = this.model.state.document;
    if (mesh) return this.open();
    notice("Paint is kept with a mesh, and the graph stands on a form.", {
      action: "Make the form a mesh",
      act: () => void this.#asMesh(form).catch(tell),
      stay: true,
    });
  }

  /** @param {string} form */
  async #asMesh(form) {
    const { mesh } = await postJson("/api/meshes/form", { form });
    if (await this.model.edit({ op: "set_mesh", value: mesh.id })) await this.open();
  }

  async open() {
    this.mesh = this.model.state.document.mesh;
    /** @type {MeshStackState} */
    const state = await getJson(this.#url);
    this.stack = new StackModel(this.#url, state);
    this.stack.addEventListener("state", () => this.#changed());
    const { boundingBox: box } = this.stage.mesh.geometry;
    if (box) this.brush.fit(box.min.distanceTo(box.max));
    await this.stage.setLevel(0);
    byId("level").value = "0";
    this.chosen = this.#painted.at(-1)?.id ?? "";
    if (!this.chosen) await this.#add();
    this.place.hidden = false;
    this.#changed();
    if (!this.stack?.state.is_made) await this.#refresh();
    this.brush.put(true);
    this.place.scrollIntoView({ block: "start" });
  }

  close() {
    if (this.brush.isOn) this.brush.put(false);
    this.stack = null;
    this.place.hidden = true;
    this.place.replaceChildren();
  }

  async #begin() {
    await this.#add();
    this.#changed();
    await this.#refresh();
  }

  /** A painted step for a channel that is free, under a name of its own. */
  async #add() {
    const { stack } = this;
    if (!stack) return;
    const before = new Set(stack.stack.steps.map(({ id }) => id));
    if (!(await stack.edit({ op: "add_step", step: "paint" }))) return;
    const made = stack.stack.steps.find(({ id }) => !before.has(id));
    const taken = new Set(stack.stack.outputs.map(({ id }) => id));
    const free = [...LAYERS, ...LAYERS.map((one) => SECOND + one)].find((place) => !taken.has(place));
    if (!made) return;
    this.chosen = made.id;
    if (free) await stack.edit({ op: "add_output", id: free, step: made.id, layer: LAYERS[0], name: "Paint" });
  }

  /** What the first layer that the brush touches has at a vertex. @param {number} vertex */
  #valueAt(vertex) {
    const [name, component] = whereIs(this.#channelOf(this.brush.settings.touches[0])?.id ?? "red");
    return this.stage.mesh.geometry.getAttribute(name)?.array[vertex * 4 + component] ?? 0;
  }

  /** @param {number[]} place */
  async #pick([x, y, z]) {
    const query = new URLSearchParams({ x: String(x), y: String(y), z: String(z) });
    const { strokes } = await getJson(`${this.#url}/strokes/${this.chosen}/at?${query}`);
    this.panel.point(strokes[0]);
  }

  /** @param {StackOperation} operation */
  async #edit(operation) {
    await this.brush.keeping;
    if (await this.stack?.edit(operation)) await this.#refresh();
  }

  /** Undoes or does again, and shows what is painted then. @param {"undo" | "redo"} way */
  async #step(way) {
    await this.brush.keeping;
    if (await this.stack?.[way]()) await this.#refresh();
  }

  /** What stands on the mesh follows, once the strokes are kept. */
  async #bake() {
    // It is baked also where the panel is closed by then.
    const { stack } = this;
    await this.brush.keeping;
    if (!stack || stack.state.is_made) return;
    if (await stack.make()) notice("The mesh is baked with its paint. What stands on it follows.");
  }

  #changed() {
    const { stack } = this;
    if (!stack) return;
    if (!this.#painted.some(({ id }) => id === this.chosen)) this.chosen = this.#painted.at(-1)?.id ?? "";
    const { undo, redo, is_made: isMade } = stack.state;
    const small = (/** @type {string} */ words, /** @type {() => void} */ act, off = false, title = "") =>
      h("button", { type: "button", class: "button small", onclick: act, disabled: off, title }, words);
    const options = this.#painted.map((one) =>
      h("option", { value: one.id, selected: one.id === this.chosen }, nameOf(one)),
    );
    const step = h("select", { class: "field", "aria-label": "Painted step" }, options);
    step.addEventListener("change", () => {
      this.chosen = step.value;
      this.#changed();
    });
    this.place.replaceChildren(
      h("h2", { class: "eyebrow" }, "Paint on the mesh"),
      h(
        "div",
        { class: "brush-acts" },
        step,
        small("New", () => void this.#begin().catch(tell)),
        small("Undo stroke", () => void this.#step("undo").catch(tell), !undo, undo),
        small("Redo stroke", () => void this.#step("redo").catch(tell), !redo, redo),
        small("Bake", () => void this.#bake().catch(tell), isMade, "What stands on the mesh follows"),
        small("Close", () => this.close()),
      ),
      this.panel.place,
    );
    this.panel.turn();
    void this.#list().catch(tell);
  }

  async #list() {
    const { stack, chosen } = this;
    const found = stack?.stack.steps.find(({ id }) => id === chosen);
    if (!found) return this.panel.show([]);
    const key = JSON.stringify([this.mesh, chosen, found.values.lines ?? []]);
    if (this.listed === key) return;
    this.listed = key;
    const { strokes } = await getJson(`${this.#url}/strokes/${chosen}`);
    if (this.listed === key) this.panel.show(strokes);
  }

  /**
   * Puts what the brush has changed onto the stage, in the channels that are made of it.
   * @param {Uint32Array} vertices
   * @param {Float32Array} values four for each vertex
   */
  #see(vertices, values) {
    for (const [number, layer] of LAYERS.entries())
      this.#put(
        layer,
        vertices.length,
        (at) => vertices[at],
        (at) => values[at * 4 + number],
      );
  }

  /**
   * Puts numbers of a layer into the channel that is made of it.
   * @param {string} layer
   * @param {number} count
   * @param {(at: number) => number} vertex
   * @param {(at: number) => number} value
   */
  #put(layer, count, vertex, value) {
    const channel = this.#channelOf(layer);
    if (!channel) return;
    const [name, component] = whereIs(channel.id);
    const attribute = this.stage.mesh.geometry.getAttribute(name);
    // A channel that was never baked is not on the stage yet.
    if (!attribute) return;
    for (let at = 0; at < count; at += 1)
      attribute.array[vertex(at) * 4 + component] = Math.min(1, Math.max(0, value(at)));
    attribute.needsUpdate = true;
    this.stage.moved();
  }

  /** Shows all that is painted now, without waiting for a bake. */
  async #refresh() {
    const { stack, chosen } = this;
    if (!stack) return;
    for (const layer of LAYERS.filter((one) => this.#channelOf(one))) {
      const asked = { stack: stack.stack, step: chosen, layer };
      const { values } = await postJson(`${this.#url}/preview`, asked);
      if (!values) continue;
      const numbers = new Float32Array(await (await send(`${this.#url}/values/${values}`)).arrayBuffer());
      const { position } = this.stage.mesh.geometry.attributes;
      if (!this.stage.hasFaces && numbers.length !== position.count) {
        // The numbers would be put to other vertices than they are of.
        notice("Steps that change the form are not baked yet: the mesh is baked first. Paint once it is there.");
        this.brush.put(false);
        return this.#bake();
      }
      this.#put(
        layer,
        numbers.length,
        (at) => at,
        (at) => numbers[at],
      );
    }
    this.brush.stroke?.seeAgain();
  }
}

/** @param {import("../../types.d.ts").StackStepState} step */
const nameOf = ({ id, values }) => String(values.name || id.replace("_", " "));
