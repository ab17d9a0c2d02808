/** The wires on the pane: each is drawn anew only where it changed. */
import { byId, svg } from "moth/base/dom.js";
import { CARD_WIDTH, FOLDED_HEIGHT, foldedKey } from "moth/workbench/graph/places/layout.js";
import { along, doCross, wire } from "moth/workbench/graph/wires/wires.js";
import { partWords } from "moth/workbench/shared/wire_words.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {[number, number]} Point */
/** @typedef {import("../cards/card_layer.js").CardLayer} CardLayer */

export class WireLayer {
  /**
   * @param {GraphModel} model
   * @param {SVGElement} layer
   * @param {CardLayer} cards
   * @param {import("../places/placing.js").Placing} placing
   * @param {import("../places/viewport.js").Viewport} view
   */
  constructor(model, layer, cards, placing, view) {
    this.model = model;
    this.layer = layer;
    this.cards = cards;
    this.placing = placing;
    this.view = view;
    this.drawn = svg("g", {});
    this.layer.replaceChildren(this.drawn);
    // Wires to the dock follow every movement of the view: in a picture of their own, the others are left alone.
    this.docked = byId("dock-wires");
    this.docked.replaceChildren();
    /** By "node.input" of the end. @type {Map<string, { element: SVGElement, look: string }>} */
    this.wires = new Map();
    /** @type {Map<string, number>} */
    this.dockRows = new Map();
    /** The selection when wires were drawn last. @type {Set<string>} */
    this.selected = new Set();
    /** Set by the pane. @type {import("../marks/marks_layer.js").MarksLayer | null} */
    this.marks = null;
  }

  /**
   * @param {string} node
   * @param {string} output
   * @returns {Point}
   */
  outputPoint(node, output) {
    const frame = this.folded(node);
    if (frame) return [frame[0] + CARD_WIDTH, frame[1] + FOLDED_HEIGHT / 2];
    const [x, y] = this.placing.places.get(node) ?? [0, 0];
    return [x + CARD_WIDTH, y + (this.cards.cards.get(node)?.pins.get(`out ${output}`) ?? 20)];
  }

  /**
   * @param {string} node
   * @param {string} input
   * @returns {Point}
   */
  inputPoint(node, input) {
    if (node === "dock") {
      const { pane } = this.view;
      return [
        (pane.clientWidth - this.view.x) / this.view.zoom,
        ((this.dockRows.get(input) ?? 20) - this.view.y) / this.view.zoom,
      ];
    }
    const frame = this.folded(node);
    if (frame) return [frame[0], frame[1] + FOLDED_HEIGHT / 2];
    const [x, y] = this.placing.places.get(node) ?? [0, 0];
    return [x, y + (this.cards.cards.get(node)?.pins.get(`in ${input}`) ?? 20)];
  }

  /**
   * Where the wires of a card end, at the card itself and at the cards they lead to.
   * @param {string} id
   * @returns {Point[]}
   */
  endsOf(id) {
    /** @type {Point[]} */
    const found = [];
    for (const [reader, node] of this.model.nodes) {
      for (const [input, [source, output]] of Object.entries(node.wires ?? {})) {
        if (reader === id || source === id)
          found.push(this.inputPoint(reader, input), this.outputPoint(source, output));
      }
    }
    return found;
  }

  /**
   * Where the folded frame lies that a node is in; null where it is in none.
   * @param {string} node
   * @returns {Point | null}
   */
  folded(node) {
    const frame = this.marks?.folded.get(node);
    return frame ? (this.placing.places.get(foldedKey(frame.id)) ?? null) : null;
  }

  /** Reads where the dock's rows are on the screen; they move only when the dock itself does. */
  measureDock() {
    const top = this.view.pane.getBoundingClientRect().top;
    for (const row of document.querySelectorAll("#dock [data-input]")) {
      const box = row.getBoundingClientRect();
      this.dockRows.set(/** @type {HTMLElement} */ (row).dataset.input ?? "", box.top + box.height / 2 - top);
    }
  }

  /**
   * @param {Set<string>} selection
   * @param {Set<string> | null} [touched] the nodes that may have changed or moved; any, where it is not told
   */
  draw(selection, touched = null) {
    if (!this.model.state) return;
    const seen = new Set();
    const stale = touched && new Set([...touched, ...selection, ...this.selected]);
    this.selected = new Set(selection);
    for (const [id, node] of this.model.nodes) {
      for (const [input, [source, output, part]] of Object.entries(node?.wires ?? {})) {
        const key = `${id}.${input}`;
        const frame = this.marks?.folded.get(id);
        if (frame && this.marks?.folded.get(source) === frame) continue;
        seen.add(key);
        if (stale && !stale.has(id) && !stale.has(source) && this.wires.has(key)) continue;
        this.#draw(key, { id, input, source, output, part: part ?? "" }, selection);
      }
    }
    for (const [key, { element }] of this.wires) {
      if (seen.has(key)) continue;
      element.remove();
      this.wires.delete(key);
    }
  }

  /**
   * The wires to the dock, which follow every movement of the view.
   * @param {Set<string>} selection
   */
  drawDocked(selection) {
    for (const [input, [source, output, part]] of Object.entries(this.model.nodes.get("dock")?.wires ?? {})) {
      this.#draw(`dock.${input}`, { id: "dock", input, source, output, part: part ?? "" }, selection);
    }
  }

  /** @param {(node: string, source: string) => boolean} isFaded */
  fade(isFaded) {
    for (const [key, { element }] of this.wires) {
      const [id, input] = key.split(".");
      const source = this.model.nodes.get(id)?.wires?.[input]?.[0] ?? "";
      element.classList.toggle("faded", isFaded(id, source));
    }
  }

  /**
   * The wires that a line crosses, by their ends.
   * @param {Point[]} line
   */
  crossed(line) {
    const found = new Set();
    for (const [id, node] of this.model.nodes) {
      for (const [input, [source, output]] of Object.entries(node.wires ?? {})) {
        const points = along(this.outputPoint(source, output), this.inputPoint(id, input), this.#route(source, id));
        if (doCross(points, line)) found.add(`${id}.${input}`);
      }
    }
    return found;
  }

  /**
   * @param {string} source
   * @param {string} reader
   */
  #route(source, reader) {
    const seen = (/** @type {string} */ id) => {
      const frame = this.marks?.folded.get(id);
      return frame ? foldedKey(frame.id) : id;
    };
    return this.placing.route(seen(source), seen(reader));
  }

  /**
   * @param {string} key
   * @param {{ id: string, input: string, source: string, output: string, part: string }} ends
   * @param {Set<string>} selection
   */
  #draw(key, { id, input, source, output, part }, selection) {
    const { types, swatches } = this.model.state;
    const given = types[`${source}.${output}`] ?? "number";
    const type = part ? this.model.settings.parts[part].made : given;
    const wrong = this.model.problemsOf(id).some((p) => p.severity === "error" && p.input === input);
    const chosen = selection.has(id) || selection.has(source);
    const mean = swatches[`${source}.${output}`]?.mean;
    const [from, to] = [this.outputPoint(source, output), this.inputPoint(id, input)];
    const route = this.#route(source, id);
    const names = `${this.model.nodes.get(source)?.label} ${this.model.nodes.get(id)?.label}`;
    const look = `${from} ${route} ${to} ${type} ${part} ${wrong} ${chosen} ${mean} ${source}.${output} ${names}`;
    const before = this.wires.get(key);
    if (before?.look === look) return;
    const goal = this.model.port(id, input).name + (id === "dock" ? "" : ` of ${this.model.nameOf(id)}`);
    const label = `${this.model.nameOf(source)} to ${goal}`;
    const element = wire(from, to, {
      route,
      type,
      strands: this.model.settings.strands[type] ?? 1,
      mean,
      wrong,
      chosen,
      label,
      note: part && partWords(this.model.settings.parts, part, given),
    });
    element.dataset.end = key;
    element.classList.toggle("faded", before?.element.classList.contains("faded") ?? false);
    if (before) before.element.replaceWith(element);
    else (id === "dock" ? this.docked : this.drawn).append(element);
    this.wires.set(key, { element, look });
  }
}
