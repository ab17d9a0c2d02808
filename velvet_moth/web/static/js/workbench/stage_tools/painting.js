/** Painting the mesh that the graph stands on: the lit surface follows the brush, and all that stands on the mesh once it is baked. */
import { getJson, postJson, send } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";
import { LAYERS } from "moth/brush/stroke.js";
import { Strokes, nameOf } from "moth/brush/strokes.js";
import { FlowView } from "moth/flow/flow_view.js";
import { StackModel } from "moth/stacks/stack_model.js";

/** @typedef {import("../../types.d.ts").MeshStackState} MeshStackState */
/** @typedef {import("../../types.d.ts").StackOperation} StackOperation */

const SECOND = "second ";
/** The places for channels, in order. */
const PLACES = [...LAYERS, ...LAYERS.map((one) => SECOND + one)];

/** The attribute and the component that a channel is in. @param {string} place such as "second red" */
const whereIs = (place) =>
  place.startsWith(SECOND)
    ? /** @type {const} */ ([`second_colour`, LAYERS.findIndex((one) => place === SECOND + one)])
    : /** @type {const} */ (["colour", LAYERS.findIndex((one) => place === one)]);

export class Painting {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../../stage/stage.js").Stage} stage
   * @param {import("../../types.d.ts").StepKind[]} kinds of steps on meshes that a brush draws on
   * @param {() => unknown} restore shows the graph's own shader
   */
  constructor(model, stage, kinds, restore) {
    this.model = model;
    this.stage = stage;
    this.place = byId("painting");
    /** The stack of the mesh, while it is painted on. @type {StackModel<MeshStackState> | null} */
    this.stack = null;
    this.mesh = "";
    this.chosen = "";
    this.strokes = new Strokes(stage, {
      url: () => this.#url,
      stack: () => this.stack?.stack,
      step: () => this.stack?.stack.steps.find(({ id }) => id === this.chosen),
      kinds: new Map(kinds.map((kind) => [kind.key, kind])),
      edit: (operation) => this.#edit(operation),
      seen: (vertices, values) => this.#see(vertices, values),
      value: (vertex) => this.#valueAt(vertex),
      ready: () => this.refreshing,
    });
    /** Until what was painted before is on the stage. @type {Promise<unknown>} */
    this.refreshing = Promise.resolve();
    this.flow = new FlowView(stage, {
      url: () => this.#url,
      directions: () => ({ stack: this.stack?.stack, step: this.chosen }),
      plain: "as the graph shows them",
      restore,
      hasTime: true,
    });
    let wasOn = false;
    this.brush.addEventListener("changed", () => {
      if (wasOn && !this.brush.isOn) void this.#bake().catch(tell);
      wasOn = this.brush.isOn;
    });
    model.addEventListener("state", () => {
      if (!this.stack) return;
      // Its own shader is on the stage again.
      this.flow.rest();
      if (model.state.document.mesh !== this.mesh) this.close();
    });
    followNews(
      (news) => this.stack?.catchUp(news.mesh_stack, news),
      () => void this.stack?.load(),
    );
  }

  get brush() {
    return this.strokes.brush;
  }

  get #url() {
    return `/api/meshes/${this.mesh}/stack`;
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
    this.chosen = this.strokes.painted.at(-1)?.id ?? "";
    if (!this.chosen) await this.#add("paint");
    this.place.hidden = false;
    this.#changed();
    await this.#refresh();
    this.brush.put(true);
    this.place.scrollIntoView({ block: "start" });
  }

  close() {
    if (this.brush.isOn) this.brush.put(false);
    this.flow.hide();
    this.stack = null;
    this.place.hidden = true;
    this.place.replaceChildren();
  }

  /** @param {"paint" | "comb"} kind */
  async #begin(kind) {
    await this.#add(kind);
    this.#changed();
    await this.#refresh();
  }

  /** A painted step with channels that are free. @param {"paint" | "comb"} kind */
  async #add(kind) {
    const { stack } = this;
    if (!stack) return;
    const known = new Set(stack.stack.steps.map(({ id }) => id));
    if (!(await stack.edit({ op: "add_step", step: kind }))) return;
    const made = stack.stack.steps.find(({ id }) => !known.has(id));
    const taken = new Set(stack.stack.outputs.map(({ id }) => id));
    const free = PLACES.filter((place) => !taken.has(place));
    if (!made) return;
    this.chosen = made.id;
    const send = (/** @type {string} */ id, /** @type {string} */ step, /** @type {string} */ layer, name = "Paint") =>
      stack.edit({ op: "add_output", id, step, layer, name });
    if (kind === "paint" && free.length) await send(free[0], made.id, LAYERS[0]);
    if (kind !== "comb" || free.length < 2) return;
    // Combed directions are read in the graph from two channels.
    const numbers = `flow_${made.id}`.slice(0, 32);
    await stack.edit({ op: "add_step", step: "flow_numbers", id: numbers, values: { given: { step: made.id } } });
    await send(free[0], numbers, "along_u", "Flow U");
    await send(free[1], numbers, "along_v", "Flow V");
  }

  /** What the first layer that the brush touches has at a vertex; of directions the speed. @param {number} vertex */
  #valueAt(vertex) {
    if (this.flow.numbers) return this.flow.numbers[vertex * 3 + 2];
    const [name, component] = whereIs(this.strokes.channelOf(this.brush.settings.touches[0])?.id ?? "red");
    return this.#attribute(name)?.array[vertex * 4 + component] ?? 0;
  }

  /** @param {string} name */
  #attribute(name) {
    return name === "colour" ? this.flow.colours : this.stage.mesh.geometry.getAttribute(name);
  }

  /** @param {StackOperation} operation */
  async #edit(operation) {
    const isDone = await this.stack?.edit(operation);
    // What a stroke makes is seen already.
    if (isDone && operation.op !== "add_stroke") await this.#refresh();
    if (isDone) this.flow.refresh();
    return isDone;
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
    const { stack, strokes } = this;
    if (!stack) return;
    if (!strokes.painted.some(({ id }) => id === this.chosen)) this.chosen = strokes.painted.at(-1)?.id ?? "";
    const { undo, redo, is_made: isMade } = stack.state;
    const small = (/** @type {string} */ words, /** @type {() => void} */ act, off = false, title = "") =>
      h("button", { type: "button", class: "button small", onclick: act, disabled: off, title }, words);
    const options = strokes.painted.map((one) =>
      h("option", { value: one.id, selected: one.id === this.chosen }, nameOf(one)),
    );
    const step = h("select", { class: "field", "aria-label": "Painted step" }, options);
    step.addEventListener("change", () => {
      this.chosen = step.value;
      this.#changed();
      void this.#refresh().catch(tell);
    });
    this.place.replaceChildren(
      h("h2", { class: "eyebrow" }, "Paint on the mesh"),
      h(
        "div",
        { class: "brush-acts" },
        step,
        small("New paint", () => void this.#begin("paint").catch(tell)),
        small("New comb", () => void this.#begin("comb").catch(tell), false, "Directions, for water, wind and hair"),
        small("Undo stroke", () => void this.#step("undo").catch(tell), !undo, undo),
        small("Redo stroke", () => void this.#step("redo").catch(tell), !redo, redo),
        small("Bake", () => void this.#bake().catch(tell), isMade, "What stands on the mesh follows"),
        small("Close", () => this.close()),
      ),
      this.flow.bar,
      strokes.panel.place,
    );
    void strokes.follow(this.mesh);
  }

  /**
   * Puts what the brush has changed onto the stage, in the channels that keep it.
   * @param {Uint32Array} vertices
   * @param {Float32Array} values four for each vertex
   */
  #see(vertices, values) {
    for (const [place, column] of Object.entries(this.strokes.channels))
      this.#put(
        place,
        vertices.length,
        (at) => vertices[at],
        (at) => values[at * 4 + column],
      );
    this.flow.change(vertices, values);
  }

  /**
   * Puts numbers into a channel.
   * @param {string} place
   * @param {number} count
   * @param {(at: number) => number} vertex
   * @param {(at: number) => number} value
   */
  #put(place, count, vertex, value) {
    const [name, component] = whereIs(place);
    const attribute = this.#attribute(name);
    // A channel that was never baked is not on the stage yet.
    if (!attribute) return;
    for (let at = 0; at < count; at += 1)
      attribute.array[vertex(at) * 4 + component] = Math.min(1, Math.max(0, value(at)));
    attribute.needsUpdate = true;
    this.stage.moved();
  }

  /** Shows all that is painted now, without waiting for a bake. */
  #refresh() {
    const shown = this.#fetch();
    this.refreshing = shown.catch(() => undefined);
    return shown;
  }

  async #fetch() {
    const { stack, chosen, strokes, stage } = this;
    if (!stack) return;
    const headers = { "Content-Type": "application/json" };
    const body = JSON.stringify({ stack: stack.stack, step: strokes.combs ? chosen : "" });
    const answer = await send(`${this.#url}/channels`, { method: "POST", headers, body });
    const count = Number(answer.headers.get("X-Vertices"));
    const numbers = new Float32Array(await answer.arrayBuffer());
    if (this.stack !== stack || this.chosen !== chosen) return;
    if (!stage.hasFaces && count !== stage.mesh.geometry.attributes.position.count) {
      // The numbers would be put to other vertices than they are of.
      notice("Steps that change the form are not baked yet: the mesh is baked first. Paint once it is there.");
      this.brush.put(false);
      return this.#bake();
    }
    const { outputs } = stack.stack;
    for (const [row, { id }] of outputs.entries())
      this.#put(
        id,
        count,
        (at) => at,
        (at) => numbers[row * count + at],
      );
    if (strokes.combs) await this.flow.show(numbers.slice(outputs.length * count));
    else this.flow.hide();
    strokes.seeAgain();
  }
}
