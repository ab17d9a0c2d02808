/** The graph pane: brings cards, wires, places and the view together, and holds what is selected. */
import { byId } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";
import { keep, kept } from "moth/base/settings.js";
import { followTime } from "moth/workbench/graph/cards/keyed_fields.js";
import { CardLayer } from "moth/workbench/graph/cards/card_layer.js";
import { FarNames } from "moth/workbench/graph/cards/far_names.js";
import { inputRank, outputRank } from "moth/workbench/model/fitting.js";
import { CARD_WIDTH, FOLDED_HEIGHT, GAP, foldedKey } from "moth/workbench/graph/places/layout.js";
import { MarksLayer } from "moth/workbench/graph/marks/marks_layer.js";
import { Placing } from "moth/workbench/graph/places/placing.js";
import { Retracing } from "moth/workbench/graph/places/retracing.js";
import { chooseNode } from "moth/workbench/shared/search.js";
import { traced } from "moth/workbench/model/tracing.js";
import { SlipLayer } from "moth/workbench/graph/slips/slip_layer.js";
import { Viewport } from "moth/workbench/graph/places/viewport.js";
import { WireLayer } from "moth/workbench/graph/wires/wire_layer.js";
import { wireUnder } from "moth/workbench/graph/wires/wires.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {[number, number]} Point */

export class GraphPane {
  /** @param {GraphModel} model */
  constructor(model) {
    this.model = model;
    this.pane = byId("graph-pane");
    this.world = byId("graph-world");
    this.view = new Viewport(this.pane, this.world, CARD_WIDTH + GAP);
    this.world.classList.toggle("compact", kept("compact", false));
    this.layer = new CardLayer(model, this.world);
    followTime(model, this.world);
    this.placing = new Placing(model.url, (ids) => this.#moved(ids));
    this.wires = new WireLayer(model, byId("wires"), this.layer, this.placing, this.view);
    this.marks = new MarksLayer(this);
    this.wires.marks = this.marks;
    this.names = new FarNames(this);
    this.slips = new SlipLayer(this);
    /** Whether all but what the selection depends on is faded. */
    this.isTracing = false;
    this.hasFaded = false;
    this.selection = /** @type {Set<string>} */ (new Set());
    /** Nodes that are to be selected once they arrive. @type {string[]} */
    this.coming = [];
    this.isFirst = true;
    /** Where the pointer is, as long as it is over the pane. @type {{ clientX: number, clientY: number } | null} */
    this.pointer = null;
    /** What a box being drawn holds. @type {Set<string>} */
    this.marked = new Set();
    /** Set by the page: wiring by keyboard. */
    this.onWire = () => {};
    this.last = "";
    /** The card that keeps its place on the screen while others move. @type {{ id: string, at: Point } | null} */
    this.anchor = null;
    this.retracing = new Retracing(this.view, this.placing);
    model.addEventListener("state", () => this.show(model.touched));
    this.view.addEventListener("view", () => this.wires.drawDocked(this.selection));
    this.pane.addEventListener("focusin", (/** @type {FocusEvent} */ e) => this.#focused(e));
    const dockMoved = () => {
      this.wires.measureDock();
      this.wires.drawDocked(this.selection);
    };
    const sizes = new ResizeObserver(dockMoved);
    for (const element of [this.pane, byId("dock-channels")]) sizes.observe(element);
    byId("dock").addEventListener("scroll", dockMoved, { passive: true });
  }

  get places() {
    return this.placing.places;
  }

  get cards() {
    return this.layer.cards;
  }

  /** @param {Set<string> | null} [touched] the nodes that may have changed; any, where it is not told */
  show(touched = null) {
    for (const id of this.selection) if (!this.model.nodes.has(id)) this.selection.delete(id);
    const awaited = new Set([...this.coming, ...this.model.takeMade()]);
    const arrived = [...awaited].filter((id) => this.model.nodes.has(id));
    if (arrived.length) {
      this.selection = new Set(arrived);
      this.coming = [];
    }
    this.#hold();
    this.marks.read();
    this.layer.show(this.selection, this.marks.folded, touched);
    this.wires.measureDock();
    this.#layOut();
    const { undo_edit: undone, redo_edit: redone } = this.model.state;
    this.retracing.follow(undone, redone);
    this.wires.draw(this.selection, touched);
    this.marks.show();
    this.slips.show();
    this.#fade();
    this.pane.dispatchEvent(new Event("shown"));
    if (arrived.length === 1) this.retracing.moving(undone, () => this.focus(arrived[0]));
    else if (arrived.length) this.pane.dispatchEvent(new Event("selection"));
  }

  #layOut() {
    const { nodes } = this.model;
    const { folded, frames } = this.marks;
    /** What stands for a node: itself, or the folded frame it is in. @param {string} id */
    const seen = (id) => (folded.has(id) ? foldedKey(folded.get(id)?.id ?? "") : id);
    /** @param {string} id */
    const sources = (id) => [...new Set(Object.values(nodes.get(id)?.wires ?? {}).map(([source]) => seen(source)))];
    const boxes = [...this.cards]
      .filter(([id]) => !folded.has(id))
      .map(([id, { height }]) => ({ id, height, place: nodes.get(id)?.place, sources: sources(id) }));
    for (const frame of frames.filter((f) => f.folded)) {
      const id = foldedKey(frame.id);
      const outside = new Set(frame.nodes.flatMap(sources).filter((source) => source !== id));
      boxes.push({ id, height: FOLDED_HEIGHT, place: undefined, sources: [...outside] });
    }
    const groups = frames.filter((f) => !f.folded).map((f) => f.nodes);
    return this.placing.layOut(boxes, sources("dock"), groups);
  }

  /** Holds on to the card that has the keyboard, or the one under the pointer. */
  #hold() {
    const focused = document.activeElement?.closest(".card");
    const under =
      this.pointer && document.elementFromPoint(this.pointer.clientX, this.pointer.clientY)?.closest(".card");
    const card = focused ?? under;
    const id = card instanceof HTMLElement ? (card.dataset.node ?? "") : "";
    const at = this.places.get(id);
    this.anchor = at ? { id, at: [...at] } : null;
  }

  /** Lays out some cards, or all of them, in columns; it is taken back like any other edit. @param {string[] | null} ids */
  tidy(ids) {
    const some = ids ?? [...this.model.nodes.keys()].filter((id) => this.cards.has(id));
    for (const id of some) this.placing.loose.delete(id);
    this.retracing.leave();
    this.placing.release(ids);
    void this.model.edit({ op: "move_nodes", places: Object.fromEntries(some.map((id) => [id, null])) });
  }

  /**
   * Cards have other places now, or wires other ways.
   * @param {Set<string>} ids
   */
  #moved(ids) {
    this.layer.place(this.placing.places, ids);
    this.#keepAnchor();
    const box = this.layer.box(this.places);
    if (box && this.placing.isSettled) this.view.setExtent(box);
    const isFolded = [...ids].some((id) => id.startsWith(foldedKey("")));
    this.wires.draw(this.selection, isFolded ? null : ids);
    this.marks.place();
    this.pane.dispatchEvent(new Event("moved"));
    if (this.placing.isSettled) this.names.show();
    if (this.isFirst && this.placing.places.size && this.placing.isSettled) {
      this.isFirst = false;
      this.fit();
    }
  }

  /** Moves the view so that the card that is held stays where it is seen. */
  #keepAnchor() {
    const now = this.anchor && this.places.get(this.anchor.id);
    if (!this.anchor || !now || this.isFirst) return;
    const [dx, dy] = [now[0] - this.anchor.at[0], now[1] - this.anchor.at[1]];
    const { x, y, zoom } = this.view;
    if (dx || dy) this.view.set({ x: x - dx * zoom, y: y - dy * zoom });
    this.anchor.at = [...now];
  }

  /** Brings the whole graph into view. */
  fit() {
    const box = this.layer.box(this.places);
    if (box) this.view.fit(box);
  }

  /**
   * Gives a card the keyboard, which selects it, and brings it into view.
   * @param {string} id
   */
  focus(id) {
    this.cards.get(id)?.element.focus({ preventScroll: true });
    this.reveal(id);
  }

  /**
   * Moves the view just so far that a card is seen whole.
   * @param {string} id
   */
  reveal(id) {
    const place = this.places.get(id);
    const card = this.cards.get(id);
    if (!place || !card) return;
    const [left, top] = place;
    this.view.reveal({ left, top, right: left + CARD_WIDTH, bottom: top + card.height });
  }

  /** @param {string[]} ids */
  select(ids) {
    const before = this.selection;
    if (before.size === ids.length && ids.every((id) => before.has(id))) return;
    this.selection = new Set(ids);
    const touched = new Set([...before, ...ids]);
    this.layer.show(this.selection, this.marks.folded, touched);
    this.wires.draw(this.selection, touched);
    this.#fade();
    this.pane.dispatchEvent(new Event("selection"));
  }

  /** @param {FocusEvent} event */
  #focused(event) {
    const card = /** @type {HTMLElement} */ (event.target).closest(".card");
    const id = card instanceof HTMLElement ? (card.dataset.node ?? "") : "";
    if (id && !this.layer.isRestoring && !this.selection.has(id)) this.select([id]);
  }

  /** Fades all but what the selected cards depend on and what depends on them, or ends that. */
  trace() {
    this.isTracing = !this.isTracing;
    if (this.isTracing && !this.selection.size) notice("Select a card: what it depends on stays, the rest fades.");
    this.#fade();
  }

  #fade() {
    if (!this.isTracing && !this.hasFaded) return;
    this.hasFaded = this.isTracing;
    const kept = this.isTracing && this.selection.size ? traced(this.model, this.selection) : null;
    for (const [id, { element }] of this.cards) element.classList.toggle("faded", !!kept && !kept.has(id));
    this.wires.fade((id, source) => !!kept && !(kept.has(id) && kept.has(source)));
  }

  /**
   * Marks the cards that something elsewhere on the page is about.
   * @param {string[]} ids
   */
  point(ids) {
    for (const [id, { element }] of this.cards) element.classList.toggle("pointed", ids.includes(id));
  }

  /** Cards without their unwired inputs, or with them. */
  toggleCompact() {
    keep("compact", this.world.classList.toggle("compact"));
    this.layer.measureAll();
    this.show();
  }

  /**
   * Unfolds the frame a card is in, so that it can be seen.
   * @param {string} id
   */
  unfoldFor(id) {
    const frame = this.marks.folded.get(id);
    if (frame) void this.model.edit({ op: "put_marks", marks: [{ ...frame, folded: false }] });
  }

  /** @param {string[]} ids */
  keepPlaces(ids) {
    this.placing.reset();
    const places = ids.map((id) => [id, (this.places.get(id) ?? [0, 0]).map(Math.round)]);
    void this.model.edit({ op: "move_nodes", places: Object.fromEntries(places) });
  }

  /**
   * Shows cards as selected while a box is being drawn.
   * @param {string[]} ids
   */
  mark(ids) {
    this.marked = new Set(ids);
    for (const [id, { element }] of this.cards) element.classList.toggle("selected", this.marked.has(id));
  }

  /** Adds a node at the pointer; with a wire beneath, into the wire. */
  add() {
    const at = this.pointer;
    const wire = at && wireUnder(at);
    if (wire) {
      const [node, input] = (wire.dataset.end ?? "").split(".");
      return this.addInto(node, input);
    }
    chooseNode(this.model, (key) => this.addNode(key, at), { at });
  }

  /**
   * @param {string} type
   * @param {{ clientX: number, clientY: number } | null} at
   * @param {{ label?: string, values?: Record<string, import("../../types.d.ts").Value> }} [given]
   */
  addNode(type, at, given = {}) {
    const id = this.model.freshId(type);
    this.#awaitNode(id, type);
    // It lies where it was placed until it is wired, then in its column.
    const [x, y] = at ? this.view.toWorld(at.clientX, at.clientY) : this.view.middle;
    this.placing.loose.set(id, this.layer.freePlace(this.places, [x - CARD_WIDTH / 2, y - 20]));
    void this.model.edit({ op: "add_node", node: { id, type, ...given } });
  }

  /**
   * A node is on its way: it is selected when it is there, and keys pressed before are about no other card.
   * @param {string} id
   * @param {string} type
   */
  #awaitNode(id, type) {
    this.coming = [id];
    this.last = type;
    this.select([]);
    this.pane.focus({ preventScroll: true });
  }

  /** Adds the node that was added last once more. */
  addAgain() {
    if (this.last) this.addNode(this.last, this.pointer);
    else this.add();
  }

  /**
   * Puts a node into a wire, joined on both sides.
   * @param {string} into
   * @param {string} input
   */
  addInto(into, input) {
    const [source, output] = this.model.nodes.get(into)?.wires?.[input] ?? ["", ""];
    const given = this.model.state.types[`${source}.${output}`];
    const taken = this.model.port(into, input).type;
    chooseNode(
      this.model,
      (type) => {
        const id = this.model.freshId(type);
        this.#awaitNode(id, type);
        void this.model.craft({ craft: "insert_node", into, input, node: { id, type } });
      },
      {
        at: this.pointer,
        rank: (type) => inputRank(this.model.settings, type, given) && outputRank(this.model.settings, type, taken),
      },
    );
  }
}
