/** The graph pane: brings cards, wires, places and the view together, and holds what is selected. */
import { byId } from "moth/dom.js";
import { CardLayer } from "moth/workbench/card_layer.js";
import { CARD_WIDTH, GAP } from "moth/workbench/layout.js";
import { pressKey } from "moth/workbench/pane_keys.js";
import { pressPane } from "moth/workbench/pane_pointer.js";
import { Placing } from "moth/workbench/placing.js";
import { chooseNode } from "moth/workbench/search.js";
import { Viewport } from "moth/workbench/viewport.js";
import { WireLayer } from "moth/workbench/wire_layer.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {[number, number]} Point */

export class GraphPane {
  /** @param {GraphModel} model */
  constructor(model) {
    this.model = model;
    this.pane = byId("graph-pane");
    this.world = byId("graph-world");
    this.view = new Viewport(this.pane, this.world, CARD_WIDTH + GAP);
    this.layer = new CardLayer(model, this.world);
    this.placing = new Placing(() => this.#moved());
    this.wires = new WireLayer(model, byId("wires"), this.layer, this.placing, this.view);
    this.selection = /** @type {Set<string>} */ (new Set());
    /** Nodes that are to be selected once they arrive. @type {string[]} */
    this.coming = [];
    this.isFirst = true;
    /** @type {(node: string) => void} set by the page: wiring by keyboard */
    this.onWire = () => {};
    model.addEventListener("state", () => this.show());
    this.view.addEventListener("view", () => this.wires.draw(this.selection, ["dock"]));
    this.pane.addEventListener("pointerdown", (/** @type {PointerEvent} */ e) => pressPane(this, e));
    this.pane.addEventListener("wheel", (/** @type {WheelEvent} */ e) => this.#wheel(e), { passive: false });
    this.pane.addEventListener("keydown", (/** @type {KeyboardEvent} */ e) => pressKey(this, e));
    this.pane.addEventListener("focusin", (/** @type {FocusEvent} */ e) => this.#focused(e));
    new ResizeObserver(() => {
      this.wires.measureDock();
      this.wires.draw(this.selection, ["dock"]);
    }).observe(this.pane);
  }

  get places() {
    return this.placing.places;
  }

  get cards() {
    return this.layer.cards;
  }

  show() {
    for (const id of this.selection) if (!this.model.nodes.has(id)) this.selection.delete(id);
    const arrived = this.coming.filter((id) => this.model.nodes.has(id));
    if (arrived.length) {
      this.selection = new Set(arrived);
      this.coming = [];
    }
    this.layer.show(this.selection);
    this.#layOut();
    this.wires.measureDock();
    this.wires.draw(this.selection);
    if (arrived.length === 1) this.focus(arrived[0]);
    else if (arrived.length) this.pane.dispatchEvent(new Event("selection"));
  }

  #layOut() {
    const { nodes } = this.model;
    const sources = (/** @type {string} */ id) => Object.values(nodes.get(id)?.wires ?? {}).map(([source]) => source);
    const boxes = [...this.cards].map(([id, { height }]) => ({
      id,
      height,
      place: nodes.get(id)?.place,
      sources: sources(id),
    }));
    this.placing.layOut(boxes, sources("dock"));
  }

  /** Cards have other places now. */
  #moved() {
    this.layer.place(this.placing.places);
    this.wires.draw(this.selection);
    if (this.isFirst && this.placing.places.size && this.placing.isSettled) {
      this.isFirst = false;
      this.fit();
    }
  }

  /** Brings the whole graph into view. */
  fit() {
    const box = this.layer.box(this.places);
    if (box) this.view.fit(box);
  }

  /**
   * Gives a card the keyboard, which selects and opens it, and brings it into view.
   * @param {string} id
   */
  focus(id) {
    this.cards.get(id)?.element.focus({ preventScroll: true });
    this.reveal(id);
  }

  /**
   * Moves the view just so far that a card is seen whole, its open part too.
   * @param {string} id
   */
  reveal(id) {
    const place = this.places.get(id);
    const card = this.cards.get(id);
    if (!place || !card) return;
    const [left, top] = place;
    const below = byId("problems").hidden ? 14 : byId("problems").offsetHeight + 24;
    this.view.reveal({ left, top, right: left + CARD_WIDTH, bottom: top + card.element.offsetHeight }, below);
  }

  /** @param {string[]} ids */
  select(ids) {
    const before = this.selection;
    this.selection = new Set(ids);
    if (before.size === ids.length && ids.every((id) => before.has(id))) return;
    this.layer.show(this.selection);
    this.wires.draw(this.selection);
    this.pane.dispatchEvent(new Event("selection"));
  }

  /** @param {FocusEvent} event */
  #focused(event) {
    const card = /** @type {HTMLElement} */ (event.target).closest(".card");
    const id = card instanceof HTMLElement ? (card.dataset.node ?? "") : "";
    if (id && !this.layer.isRestoring && !this.selection.has(id)) this.select([id]);
  }

  /** @param {string[]} ids */
  keepPlaces(ids) {
    this.placing.forget();
    const places = ids.map((id) => [id, (this.places.get(id) ?? [0, 0]).map(Math.round)]);
    void this.model.edit({ op: "move_nodes", places: Object.fromEntries(places) });
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    event.preventDefault();
    if (event.shiftKey) return this.view.set({ x: this.view.x - (event.deltaY || event.deltaX) });
    const box = this.pane.getBoundingClientRect();
    this.view.zoomBy(Math.exp(-event.deltaY * 0.0012), event.clientX - box.left, event.clientY - box.top);
  }

  add() {
    chooseNode(this.model, (key) => {
      const id = this.model.freshId(key);
      this.coming = [id];
      void this.model.edit({ op: "add_node", node: { id, type: key } });
    });
  }
}
