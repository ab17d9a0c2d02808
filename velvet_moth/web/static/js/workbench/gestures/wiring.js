/** Making wires: by dragging from a pin, and by keyboard from a list of inputs. */
import { svg } from "moth/base/dom.js";
import { getJson } from "moth/base/api.js";
import { inputRank, outputRank, rank } from "moth/workbench/model/fitting.js";
import { chooseNode, choose } from "moth/workbench/shared/search.js";
import { wire } from "moth/workbench/graph/wires/wires.js";

/** @typedef {import("../../types.d.ts").Taker} Taker */
/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {{ node: string, output: string }} Output */
/** @typedef {{ node: string, input: string }} Input */
/** @typedef {{ from?: Output, to?: Input, taken?: Input }} Ends */
/** @typedef {[number, number]} Point */

/** How near a pin draws a wire to itself, in pixels of the screen. */
const PULL = 44;

export class Wiring {
  /**
   * @param {GraphModel} model
   * @param {GraphPane} pane
   */
  constructor(model, pane) {
    this.model = model;
    this.pane = pane;
    document.addEventListener("pointerdown", (event) => this.#begin(event));
  }

  /**
   * How well a wire would fit: 0 not at all.
   * @param {Output} from
   * @param {Input} to
   */
  #fit(from, to) {
    if (from.node === to.node) return 0;
    return rank(
      this.model.settings,
      this.model.state.types[`${from.node}.${from.output}`],
      this.model.port(to.node, to.input).type,
    );
  }

  /**
   * @param {Output} from
   * @param {Input} to
   * @param {Input} [taken] the input that gives the wire away
   */
  #join(from, to, taken) {
    const ends = { node: to.node, input: to.input, from_node: from.node, from_output: from.output };
    void this.model.craft({ craft: "join", ...ends, taken_from: taken ? [taken.node, taken.input] : null });
  }

  /** @param {PointerEvent} event */
  #begin(event) {
    const pin = event.target instanceof Element ? event.target.closest(".pin") : null;
    if (!(pin instanceof HTMLElement) || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    const { node = "", output } = pin.dataset;
    if (output) return this.#drag(event, { from: { node, output } });
    const row = /** @type {HTMLElement} */ (pin.closest("[data-input]"));
    const to = { node: row.dataset.node ?? "", input: row.dataset.input ?? "" };
    const wired = this.model.nodes.get(to.node)?.wires?.[to.input];
    // A wired input gives its wire away; an empty one looks for a source.
    if (wired) return this.#drag(event, { from: { node: wired[0], output: wired[1] }, taken: to });
    return this.#drag(event, { to });
  }

  /**
   * @param {PointerEvent} start
   * @param {Ends} ends
   */
  #drag(start, ends) {
    let moved = false;
    /** @param {PointerEvent} event */
    const move = (event) => {
      moved ||= Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) > 4;
      if (moved) this.#preview(event, ends);
    };
    /** @param {PointerEvent} event */
    const end = (event) => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
      removeEventListener("keydown", cancel, true);
      this.#clear();
      if (moved && event.type === "pointerup") this.#drop(event, ends);
    };
    /** @param {KeyboardEvent} event */
    const cancel = (event) => {
      if (event.key === "Escape") end(/** @type {any} */ (event));
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
    addEventListener("keydown", cancel, true);
  }

  /**
   * What the pointer is on: a pin or row beneath it, else the nearest pin that fits.
   * @param {PointerEvent} event
   * @param {Ends} ends
   */
  #under(event, ends) {
    const element = document.elementFromPoint(event.clientX, event.clientY);
    const row = /** @type {HTMLElement | null} */ (element?.closest("[data-input]") ?? null);
    const pin = /** @type {HTMLElement | null} */ (element?.closest(".pin.out") ?? null);
    const isWirable = row && this.model.port(row.dataset.node ?? "", row.dataset.input ?? "").wirable;
    const near = this.#nearest(event, ends);
    return {
      input: isWirable ? { node: row.dataset.node ?? "", input: row.dataset.input ?? "" } : near?.input,
      output: pin ? { node: pin.dataset.node ?? "", output: pin.dataset.output ?? "" } : near?.output,
      card: /** @type {HTMLElement | null} */ (element?.closest(".card") ?? null),
      isPane: !!element?.closest("#graph-pane"),
    };
  }

  /**
   * The nearest pin that would take or give the wire, within the pull of the pointer.
   * @param {PointerEvent} event
   * @param {Ends} ends
   * @returns {{ input?: Input, output?: Output } | null}
   */
  #nearest(event, { from, to }) {
    const { view, wires, cards } = this.pane;
    const [x, y] = view.toWorld(event.clientX, event.clientY);
    const reach = PULL / view.zoom;
    let least = reach;
    /** @type {{ input?: Input, output?: Output } | null} */
    let best = null;
    /** @param {Point} at @param {{ input?: Input, output?: Output }} found */
    const consider = (at, found) => {
      const away = Math.hypot(at[0] - x, at[1] - y);
      if (away < least) [least, best] = [away, found];
    };
    for (const id of [...cards.keys(), "dock"]) {
      const [left, top] = this.pane.places.get(id) ?? [x, y];
      if (Math.abs(left - x) > reach + 180 || Math.abs(top - y) > reach + 600) continue;
      const type = this.model.typeOf(id);
      for (const port of from ? type.inputs : []) {
        const input = { node: id, input: port.key };
        if (from && port.wirable && this.#fit(from, input)) consider(wires.inputPoint(id, port.key), { input });
      }
      for (const { key } of to ? type.outputs : []) {
        const output = { node: id, output: key };
        if (to && this.#fit(output, to)) consider(wires.outputPoint(id, key), { output });
      }
    }
    return best;
  }

  /**
   * @param {PointerEvent} event
   * @param {Ends} ends
   */
  #preview(event, ends) {
    this.#clear();
    const under = this.#under(event, ends);
    const { wires, view } = this.pane;
    const pointer = view.toWorld(event.clientX, event.clientY);
    const from = ends.from ?? under.output;
    const to = ends.to ?? under.input;
    const start = from ? wires.outputPoint(from.node, from.output) : pointer;
    const goal = to ? wires.inputPoint(to.node, to.input) : pointer;
    const type = from ? this.model.state.types[`${from.node}.${from.output}`] : "number";
    const fits = !from || !to || this.#fit(from, to) > 0;
    const mean = from && this.model.state.swatches[`${from.node}.${from.output}`]?.mean;
    const drawn = wire(start, goal, { type, strands: this.model.settings.strands[type] ?? 1, mean, wrong: !fits });
    drawn.classList.add("preview");
    wires.layer.append(drawn);
    const far = ends.from ? to : from;
    if (far) drawn.append(this.#name(far, fits, pointer));
    if (to)
      document
        .querySelector(`[data-node="${to.node}"][data-input="${to.input}"]`)
        ?.classList.add(fits ? "fits" : "misfits");
  }

  /**
   * The name of the pin that a wire would join, beside the pointer.
   * @param {Input | Output} end
   * @param {boolean} fits
   * @param {Point} at
   */
  #name(end, fits, [x, y]) {
    const type = this.model.typeOf(end.node);
    const output = type.outputs.find((o) => "output" in end && o.key === end.output);
    const input = type.inputs.find((p) => "input" in end && p.key === end.input);
    const name = output ? this.model.outputName(end.node, output) : input?.name;
    const size = 12 / this.pane.view.zoom;
    const words = svg("text", { class: "pull-name", x, y: y - size, "font-size": size });
    const of = end.node === "dock" ? "" : ` of ${this.model.nameOf(end.node)}`;
    words.textContent = `${name}${of}${fits ? "" : " does not take this"}`;
    return words;
  }

  #clear() {
    for (const old of document.querySelectorAll(".wire.preview")) old.remove();
    for (const row of document.querySelectorAll(".fits, .misfits")) row.classList.remove("fits", "misfits");
  }

  /**
   * @param {PointerEvent} event
   * @param {Ends} ends
   */
  #drop(event, { from, to, taken }) {
    const under = this.#under(event, { from, to });
    if (to) {
      if (under.output) return this.#join(under.output, to);
      if (under.isPane && !under.card) this.#addBefore(to, event);
      return;
    }
    if (!from) return;
    if (under.input) {
      if (taken && taken.node === under.input.node && taken.input === under.input.input) return;
      return this.#join(from, under.input, taken);
    }
    if (taken && !under.card) return void this.model.edit({ op: "unwire", node: taken.node, input: taken.input });
    if (under.isPane && !under.card) this.#addAfter(from, event);
  }

  /**
   * @param {Output} from
   * @param {PointerEvent} at
   */
  #addAfter(from, at) {
    const given = this.model.state.types[`${from.node}.${from.output}`];
    const { settings } = this.model;
    const fitness = (/** @type {import("../../types.d.ts").NodeType} */ type) => inputRank(settings, type, given);
    chooseNode(
      this.model,
      (key) => {
        const type = this.model.kind(key);
        const inputs = (type?.inputs ?? []).filter((p) => p.wirable);
        const best = inputs.reduce((a, b) => (rank(settings, given, b.type) > rank(settings, given, a.type) ? b : a));
        const id = this.model.freshId(key);
        this.pane.coming = [id];
        this.pane.last = key;
        const node = { id, type: key };
        void this.model.craft({
          craft: "join",
          node: id,
          input: best.key,
          from_node: from.node,
          from_output: from.output,
          added: node,
        });
      },
      { at, rank: fitness },
    );
  }

  /**
   * @param {Input} to
   * @param {PointerEvent} at
   */
  #addBefore(to, at) {
    const taken = this.model.port(to.node, to.input).type;
    const { settings } = this.model;
    const fitness = (/** @type {import("../../types.d.ts").NodeType} */ type) => outputRank(settings, type, taken);
    chooseNode(
      this.model,
      (key) => {
        const outputs = this.model.kind(key)?.outputs ?? [];
        const best = outputs.reduce((a, b) => (rank(settings, b.type, taken) > rank(settings, a.type, taken) ? b : a));
        const id = this.model.freshId(key);
        this.pane.coming = [id];
        this.pane.last = key;
        const node = { id, type: key };
        void this.model.craft({
          craft: "join",
          node: to.node,
          input: to.input,
          from_node: id,
          from_output: best.key,
          added: node,
        });
      },
      { at, rank: fitness },
    );
  }

  /** By keyboard: the inputs that the selected card could go to, the fitting ones first; several go to one card. */
  chooseTarget() {
    const nodes = [...this.pane.selection];
    if (!nodes.length) return;
    const asked = getJson(`${this.model.url}/takers?${new URLSearchParams({ nodes: nodes.join(",") })}`);
    const choices = asked.then((/** @type {import("../../types.d.ts").Takers} */ { takers }) =>
      nodes.length > 1 ? this.#endsOfAll(nodes, takers) : this.#endsOf(nodes[0], takers),
    );
    const title =
      nodes.length > 1 ? `Wire ${nodes.length} cards, from input` : `Wire ${this.model.nameOf(nodes[0])} to`;
    // Open at once, so that what is typed meanwhile is not lost.
    this.#choose(title, choices);
  }

  /** @param {string} giver @param {Taker[]} takers */
  #endsOf(giver, takers) {
    const outputs = new Map(this.model.typeOf(giver).outputs.map(({ key, name }) => [key, name]));
    const names = [...this.model.nodes.keys()].map((id) => this.model.nameOf(id));
    const isShared = (/** @type {string} */ node) =>
      names.filter((name) => name === this.model.nameOf(node)).length > 1;
    return takers
      .toSorted((a, b) => b.fit - a.fit)
      .map(({ output, node, input, fit }) => {
        const wired = this.model.nodes.get(node)?.wires?.[input];
        const from = outputs.size > 1 ? `${outputs.get(output)} → ` : "";
        return {
          name: `${from}${this.model.port(node, input).name} of ${this.model.nameOf(node)}`,
          note: [
            isShared(node) ? this.#leadsTo(node) : "",
            !fit ? "does not fit as it is" : wired ? `now from ${this.model.nameOf(wired[0])}` : "",
          ]
            .filter(Boolean)
            .join(", "),
          act: () => this.#join({ node: giver, output }, { node, input }),
        };
      });
  }

  /** What tells a card from others of its name: where its value goes. @param {string} node */
  #leadsTo(node) {
    for (const [id, { wires = {} }] of this.model.nodes)
      for (const [input, [source]] of Object.entries(wires))
        if (source === node) return `leads to ${this.model.port(id, input).name} of ${this.model.nameOf(id)}`;
    return "leads nowhere yet";
  }

  /** @param {string[]} nodes @param {Taker[]} takers */
  #endsOfAll(nodes, takers) {
    const ends = new Map(takers.map(({ node, input }) => [`${node}.${input}`, { node, input }]));
    return [...ends.values()].map(({ node, input }) => ({
      name: `${this.model.port(node, input).name} of ${this.model.nameOf(node)}`,
      note: "and the inputs after it",
      act: () => void this.model.craft({ craft: "join_all", nodes, node, input }),
    }));
  }

  /**
   * @param {string} title
   * @param {Promise<import("../shared/search.js").Choice[]>} choices
   */
  #choose(title, choices) {
    choose(title, "Type the input or the card", async (query) => {
      const typed = query.toLowerCase();
      const words = typed.split(/\s+/);
      const found = (await choices).filter((c) => words.every((w) => c.name.toLowerCase().includes(w)));
      // What was typed in full comes before what only holds all its words.
      const isPhrase = (/** @type {string} */ name) => Number(name.toLowerCase().includes(typed));
      return found.sort((a, b) => isPhrase(b.name) - isPhrase(a.name));
    });
  }
}
