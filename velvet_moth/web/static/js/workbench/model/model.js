/** The graph as the page knows it: the server's state, edits on their way, and values being dragged. */
import { DocumentModel } from "moth/base/document_model.js";
import { keep, kept } from "moth/base/settings.js";
import { Keys } from "moth/workbench/model/keys.js";
import { mergeInto } from "moth/workbench/model/merging.js";

/** @typedef {import("../../types.d.ts").GraphState} GraphState */
/** @typedef {import("../../types.d.ts").GraphNode} GraphNode */
/** @typedef {import("../../types.d.ts").Operation} Operation */
/** @typedef {import("../../types.d.ts").Value} Value */
/** @typedef {import("../../types.d.ts").PageSettings} PageSettings */

/** @extends {DocumentModel<GraphState, Operation>} */
export class GraphModel extends DocumentModel {
  /**
   * @param {number} id
   * @param {PageSettings} settings
   */
  constructor(id, settings) {
    super(`/api/graphs/${id}`, "graph");
    /** @type {GraphState} */
    this.state = /** @type {any} */ (null);
    this.settings = settings;
    /** @type {Map<string, GraphNode>} */
    this.nodes = new Map();
    /** Values shown at once while the server has not answered. @type {Map<string, number[]>} */
    this.live = new Map();
    /** Motifs that a search has found, by type. @type {Map<string, import("../../types.d.ts").NodeType>} */
    this.motifs = new Map();
    /** By node. @type {Map<string, import("../../types.d.ts").Parameter[]>} */
    this.parameters = new Map();
    /** The nodes whose cards the last state may have changed; null for any. @type {Set<string> | null} */
    this.touched = null;
    this.variant = "";
    this.shown = "";
    /** What each output is at the pinned pixel that is looked at. @type {Map<string, number[]>} */
    this.pinned = new Map();
    /** The nodes whose extra inputs have been asked for. @type {Set<string>} */
    this.hasMore = new Set();
    /** What swatches are drawn on: the dome, or a form. */
    this.swatch = kept("swatch", "dome");
    this.keys = new Keys(this);
  }

  /**
   * Shows or hides the inputs of a node that do nothing yet.
   * @param {string} id
   * @param {boolean} isOpen
   */
  showMore(id, isOpen) {
    if (isOpen) this.hasMore.add(id);
    else this.hasMore.delete(id);
    this.touched = new Set([id]);
    this.dispatchEvent(new Event("state"));
  }

  /** What the page looks at, and what of it it has already. */
  get view() {
    const { seen = "", shader } = this.state ?? {};
    return { variant: this.variant, shown: this.shown, swatch: this.swatch, shader: shader?.hash ?? "", seen };
  }

  /**
   * Takes up what has changed elsewhere, after the edits on their way.
   * @param {import("../../types.d.ts").News} news
   */
  catchUp({ graph, revision, motif, words, texture, mesh }) {
    const read = texture || mesh;
    if (read) {
      // One that was deleted is still named by what read it.
      if (JSON.stringify(this.state?.document ?? "").includes(read)) void this.enqueue(() => this.fetch());
      return;
    }
    const isOwn = graph === this.state?.id;
    const isBehind = !!this.state?.document.backdrop_materials.some((one) => one.graph === String(graph));
    if (!isOwn && !isBehind && !(motif && Object.keys(this.state?.kinds ?? {}).length)) return;
    void this.enqueue(async () => {
      if (isOwn && revision <= this.state.revision) return true;
      this.elsewhere = words;
      return this.fetch();
    });
  }

  /** @param {GraphState} state */
  take(state) {
    this.touched = mergeInto(state, this.state);
    for (const key of this.live.keys()) this.touched?.add(key.split(".", 1)[0]);
    const keyed = this.state ? this.keys.nodes : new Set();
    this.state = state;
    this.nodes = new Map(state.document.nodes.map((node) => [node.id, node]));
    this.parameters = Map.groupBy(state.document.parameters, (parameter) => parameter.node);
    this.keys.take(state.tracks);
    this.variant = state.variant;
    this.shown = state.shown;
    for (const node of new Set([...keyed, ...this.keys.nodes])) this.touched?.add(node);
    // Another edit on its way keeps what it shows; news of this one, which may come before its answer, do not.
    if (this.unsaved <= 1) this.live.clear();
    this.dispatchEvent(new Event("state"));
  }

  dropped() {
    this.live.clear();
    this.touched = null;
    super.dropped();
  }

  /**
   * @param {Operation[]} operations
   * @param {string} [summary]
   */
  editAll(operations, summary = "") {
    return this.edit(operations.length === 1 ? operations[0] : { op: "batch", operations, summary });
  }

  /**
   * An edit told as a movement of the hand; the core works out the operations.
   * @param {{ craft: string, [field: string]: unknown }} craft
   */
  craft(craft) {
    return this.ask("crafts", { craft });
  }

  /** The nodes that the last answer brought, asked for once. */
  takeMade() {
    const { made } = this.state;
    this.state.made = undefined;
    return Array.isArray(made) ? made : [];
  }

  /** The stage shows another moment. @param {number} time seconds */
  passTo(time) {
    if (this.keys.time === time) return;
    this.keys.time = time;
    this.dispatchEvent(new Event("time"));
  }

  /** @param {string} variant */
  setVariant(variant) {
    return this.#look(() => (this.variant = variant));
  }

  /** @param {string} shown an output as "node.output", or "" for the whole surface */
  setShown(shown) {
    return this.#look(() => (this.shown = shown));
  }

  /** @param {string} swatch dome, plane, sphere or form */
  setSwatch(swatch) {
    keep("swatch", swatch);
    return this.#look(() => (this.swatch = swatch));
  }

  /** @param {() => void} change */
  #look(change) {
    return this.enqueue(async () => {
      change();
      return this.fetch();
    });
  }

  /** @param {string} id */
  typeOf(id) {
    return this.state.kinds[id] ?? this.kind(/** @type {GraphNode} */ (this.nodes.get(id)).type);
  }

  /** @param {string} type of the catalogue, or a motif's */
  kind(type) {
    return this.settings.nodes[type] ?? this.motifs.get(type);
  }

  /** @param {string} id */
  nameOf(id) {
    return this.nodes.get(id)?.label || this.typeOf(id).name;
  }

  /**
   * What an output is called: what it means on this mesh, where somebody has said so.
   * @param {string} id
   * @param {{ key: string, name: string }} output
   */
  outputName(id, { key, name }) {
    return this.state.names[`${id}.${key}`] ?? name;
  }

  /**
   * @param {string} node
   * @param {string} input
   */
  port(node, input) {
    return /** @type {import("../../types.d.ts").Port} */ (this.typeOf(node).inputs.find((p) => p.key === input));
  }

  /** @param {string} node */
  problemsOf(node) {
    return this.state.problems[node] ?? [];
  }

  /** @param {string} node */
  parametersOf(node) {
    return this.parameters.get(node) ?? [];
  }

  /**
   * @param {string} node
   * @param {string} input
   */
  parameterAt(node, input) {
    return this.parametersOf(node).find((p) => p.input === input);
  }

  get currentVariant() {
    return this.state.document.variants.find((v) => v.id === this.variant);
  }

  /**
   * The graph's own value on an unwired input.
   * @param {string} node
   * @param {string} input
   * @returns {Value}
   */
  defaultValue(node, input) {
    const port = this.port(node, input);
    return this.nodes.get(node)?.values?.[input] ?? (port.type === "texture" ? "" : port.default);
  }

  /**
   * The value as it shows now: dragged, keyed at the moment, overridden by the variant, or the graph's own.
   * @param {string} node
   * @param {string} input
   * @param {string} [variant]
   * @returns {Value}
   */
  value(node, input, variant = this.variant) {
    const dragged = variant === this.variant && this.live.get(`${node}.${input}`);
    if (dragged) return dragged;
    const parameter = this.parameterAt(node, input);
    if (!parameter) return this.defaultValue(node, input);
    return this.keys.now(parameter.id, variant) ?? this.setBy(variant, parameter.id) ?? this.defaultValue(node, input);
  }

  /**
   * What a variant, or one it is based on, sets a parameter to.
   * @param {string} variant
   * @param {string} parameter
   * @returns {Value | undefined}
   */
  setBy(variant, parameter) {
    const own = this.state.document.variants.find(({ id }) => id === variant)?.values[parameter];
    return own ?? this.state.inherited[variant]?.[parameter];
  }

  /**
   * Shows a value at once without telling the server.
   * @param {string} node
   * @param {string} input
   * @param {number[]} value
   */
  drag(node, input, value) {
    this.live.set(`${node}.${input}`, value);
    this.dispatchEvent(new CustomEvent("dragged", { detail: `${node}.${input}` }));
  }

  /**
   * Keeps a value: by a key where it is keyed, as the variant's own where one is chosen and the value is a parameter,
   * else as the graph's.
   * @param {string} node
   * @param {string} input
   * @param {Value} value
   */
  keep(node, input, value) {
    const parameter = this.parameterAt(node, input);
    if (typeof value !== "string") this.live.set(`${node}.${input}`, value);
    if (parameter && this.keys.stateOf(parameter.id)) {
      return this.keys.set(parameter.id, value, this.port(node, input).in_steps);
    }
    if (parameter && this.currentVariant) {
      return this.edit({ op: "set_override", variant: this.variant, parameter: parameter.id, value });
    }
    return this.edit({ op: "set_value", node, input, value });
  }

  /**
   * An id that nothing has yet.
   * @param {string} stem
   */
  freshId(stem) {
    const taken = [...this.nodes.keys(), ...this.state.document.parameters.map((p) => p.id)];
    taken.push(...[...this.state.document.variants, ...this.state.document.marks].map((found) => found.id));
    const clean =
      stem
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "_")
        .replace(/^[^a-z]+|_+$/g, "")
        .slice(0, 20) || "x";
    for (let number = 1; ; number += 1) {
      const id = `${clean}_${number}`;
      if (!taken.includes(id)) return id;
    }
  }
}
