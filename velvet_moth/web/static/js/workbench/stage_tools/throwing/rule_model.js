/** A rule of placing as the page knows it; the first rule until a graph has one of its own. */
import { postJson } from "moth/base/api.js";
import { DocumentModel } from "moth/base/document_model.js";

/** @typedef {import("../../../types.d.ts").RuleState} RuleState */
/** @typedef {import("../../../types.d.ts").RuleCurve} RuleCurve */

/** @extends {DocumentModel<RuleState, any>} */
export class RuleModel extends DocumentModel {
  /**
   * @param {import("../../model/model.js").GraphModel} graph
   * @param {Record<string, import("../../../types.d.ts").RulePartState>} parts
   */
  constructor(graph, parts) {
    super("", "rule");
    this.graph = graph;
    /** A curve that is being dragged. @type {{ part: string, curve: RuleCurve } | null} */
    this.live = null;
    const curves = Object.fromEntries(Object.entries(parts).map(([part, { first }]) => [part, first]));
    /** The rule of graphs that name none. @type {RuleState} */
    this.first = { id: 0, revision: 0, name: "The first rule", curves, changed_parts: [], undo: "", redo: "" };
    this.state = this.first;
  }

  /** The key that graphs name it by. */
  get key() {
    return this.state.id ? String(this.state.id) : "";
  }

  /** @param {string} part @returns {RuleCurve} as it is seen */
  curve(part) {
    return this.live?.part === part ? this.live.curve : this.state.curves[part];
  }

  /** As its file has it, with what is being dragged. */
  get file() {
    const curves = Object.fromEntries(Object.keys(this.state.curves).map((part) => [part, this.curve(part)]));
    return { format: "velvet-moth-rule", version: 1, name: this.state.name, curves };
  }

  /** @param {RuleState} state */
  take(state) {
    this.live = null;
    super.take(state);
  }

  dropped() {
    this.live = null;
    super.dropped();
  }

  /** Shows the rule of that key. @param {string} key */
  open(key) {
    if (key === this.key && (key || this.state === this.first)) return;
    this.url = key ? `/api/rules/${key}` : "";
    if (!key) return this.take(this.first);
    void this.load();
  }

  /** A graph without a rule gets one of its own before that is changed. */
  async #own() {
    if (this.state.id) return;
    const name = `Rule of ${this.graph.state.document.title}`.slice(0, 80);
    const made = await postJson("/api/rules", { rule: { ...this.file, name, curves: this.state.curves } });
    this.url = `/api/rules/${made.id}`;
    this.state = made;
    await this.graph.edit({ op: "set_rule", value: String(made.id) });
  }

  /** @param {string} step @param {Record<string, unknown>} body */
  async send(step, body) {
    await this.#own();
    return super.send(step, body);
  }

  /** @param {string} part @param {RuleCurve} curve */
  drag(part, curve) {
    this.live = { part, curve };
    this.dispatchEvent(new Event("dragged"));
  }

  /** @param {string} part @param {RuleCurve | null} curve null for the first one */
  set(part, curve) {
    return this.edit({ op: "set_rule_part", part, curve });
  }

  /** @param {import("../../../types.d.ts").News} news */
  catchUp({ rule, revision, words }) {
    if (!rule || rule !== this.state.id) return;
    void this.enqueue(async () => {
      if (revision <= this.state.revision) return true;
      this.elsewhere = words;
      return this.fetch();
    });
  }
}
