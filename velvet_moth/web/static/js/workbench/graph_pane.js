/** The graph pane: cards in columns, wires between them, pan, zoom, selection, moving, keyboard. */
import { byId, offsetWithin, svg } from "moth/dom.js";
import { makeCard, refreshCard } from "moth/workbench/cards.js";
import { CARD_WIDTH, GAP, columns } from "moth/workbench/layout.js";
import { pressKey } from "moth/workbench/pane_keys.js";
import { chooseNode } from "moth/workbench/search.js";
import { dye, wire } from "moth/workbench/wires.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {[number, number]} Point */

const LEAST_ZOOM = 0.15;
const MOST_ZOOM = 2;
const DRAG = 4;

export class GraphPane {
  /** @param {GraphModel} model */
  constructor(model) {
    this.model = model;
    this.pane = byId("graph-pane");
    this.world = byId("graph-world");
    this.wireLayer = byId("wires");
    this.view = { x: 0, y: 0, zoom: 1 };
    this.selection = /** @type {Set<string>} */ (new Set());
    /** A node that is to be selected once it arrives. */
    this.coming = "";
    /** @type {Map<string, { element: HTMLElement, look: string }>} */
    this.cards = new Map();
    /** @type {Map<string, Point>} */
    this.places = new Map();
    this.isFirst = true;
    this.isRestoring = false;
    /** What the present layout was made for. */
    this.shape = "";
    /** @type {(node: string) => void} set by the page: wiring by keyboard */
    this.onWire = () => {};
    model.addEventListener("state", () => this.show());
    this.pane.addEventListener("pointerdown", (/** @type {PointerEvent} */ e) => this.#press(e));
    this.pane.addEventListener("wheel", (/** @type {WheelEvent} */ e) => this.#wheel(e), { passive: false });
    this.pane.addEventListener("keydown", (/** @type {KeyboardEvent} */ e) => pressKey(this, e));
    this.pane.addEventListener("focusin", (/** @type {FocusEvent} */ e) => this.#focused(e));
    new ResizeObserver(() => this.#drawWires()).observe(this.pane);
  }

  show() {
    for (const id of this.selection) if (!this.model.nodes.has(id)) this.selection.delete(id);
    let focusComing = false;
    if (this.coming && this.model.nodes.has(this.coming)) {
      this.selection = new Set([this.coming]);
      this.coming = "";
      focusComing = true;
    }
    this.#showCards();
    this.#layOut();
    this.#drawWires();
    if (this.isFirst) {
      this.isFirst = false;
      this.fit();
    }
    if (focusComing) this.focus([...this.selection][0]);
  }

  #showCards() {
    const focused = /** @type {HTMLElement | null} */ (document.activeElement);
    const focusKey = this.world.contains(focused) ? (focused?.dataset.focus ?? "") : "";
    let lost = false;
    const problems = this.model.state.problems;
    for (const [id, card] of this.cards) {
      if (!this.model.nodes.has(id)) {
        lost ||= card.element.contains(focused);
        card.element.remove();
        this.cards.delete(id);
      }
    }
    for (const [id, node] of this.model.nodes) {
      if (id === "dock") continue;
      const open = this.selection.size === 1 && this.selection.has(id);
      const type = this.model.typeOf(id);
      const look = JSON.stringify([
        node,
        open,
        this.model.shown.startsWith(`${id}.`) && this.model.shown,
        type.inputs.map((p) => [this.model.value(id, p.key), this.model.state.input_types[`${id}.${p.key}`]]),
        type.outputs.map((o) => this.model.state.types[`${id}.${o.key}`]),
        this.model.state.document.parameters.filter((p) => p.node === id),
        problems.filter((p) => p.node === id).map((p) => [p.severity, p.input, p.what]),
        Object.values(node.wires ?? {}).map(([source]) => this.model.nodes.get(source)?.label),
      ]);
      let card = this.cards.get(id);
      if (!card || card.look !== look) {
        const element = makeCard(this.model, id, open);
        const old = card?.element;
        if (old) {
          element.style.transform = old.style.transform;
          lost ||= old.contains(focused);
          old.replaceWith(element);
        } else this.world.append(element);
        card = { element, look };
        this.cards.set(id, card);
      }
      card.element.classList.toggle("selected", this.selection.has(id));
      refreshCard(this.model, id, card.element);
    }
    if (lost) {
      const again =
        this.world.querySelector(`[data-focus="${focusKey}"]`) ?? this.world.querySelector(".card.selected");
      // Giving the keyboard back after a redraw is not the person's choice of a card.
      this.isRestoring = true;
      (again instanceof HTMLElement ? again : this.pane).focus({ preventScroll: true });
      this.isRestoring = false;
    }
  }

  #layOut() {
    const boxes = [...this.cards].map(([id, { element }]) => ({
      id,
      height: /** @type {HTMLElement} */ (element.querySelector(".card-body")).offsetHeight,
      place: this.model.nodes.get(id)?.place,
      sources: Object.values(this.model.nodes.get(id)?.wires ?? {}).map(([source]) => source),
    }));
    const docked = Object.values(this.model.nodes.get("dock")?.wires ?? {}).map(([source]) => source);
    // Values change often, the shape of a graph seldom: it is laid out only when it did.
    const shape = JSON.stringify([boxes, docked]);
    if (shape === this.shape) return;
    this.shape = shape;
    this.places = columns(boxes, docked);
    for (const [id, place] of this.places) this.#place(id, place);
  }

  /**
   * @param {string} id
   * @param {Point} place
   */
  #place(id, [x, y]) {
    const card = this.cards.get(id);
    if (card) card.element.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
  }

  #applyView() {
    const { x, y, zoom } = this.view;
    this.world.style.transform = `translate(${x}px, ${y}px) scale(${zoom})`;
    this.pane.style.backgroundPositionX = `${x}px`;
    this.pane.style.backgroundSize = `${(CARD_WIDTH + GAP) * zoom}px 100%`;
    this.#drawWires();
  }

  /** Brings the whole graph into view. */
  fit() {
    const places = [...this.places];
    const { clientWidth: width, clientHeight: height } = this.pane;
    if (!places.length || !width) return;
    const right = Math.max(...places.map(([, [x]]) => x + CARD_WIDTH));
    const bottom = Math.max(...places.map(([id, [, y]]) => y + this.#height(id)));
    const left = Math.min(...places.map(([, [x]]) => x));
    const top = Math.min(...places.map(([, [, y]]) => y));
    const zoom = Math.min(
      1,
      Math.max(LEAST_ZOOM, Math.min((width - 56) / (right - left), (height - 40) / (bottom - top))),
    );
    // Small graphs lie next to the dock, where they end.
    this.view = { zoom, x: width - 40 - right * zoom, y: (height - (bottom + top) * zoom) / 2 };
    if ((right - left) * zoom > width - 80) this.view.x = 16 - left * zoom;
    this.#applyView();
  }

  /** @param {string} id */
  #height(id) {
    return /** @type {HTMLElement} */ (this.cards.get(id)?.element.querySelector(".card-body"))?.offsetHeight ?? 60;
  }

  /**
   * Gives a card the keyboard, which selects and opens it, and brings it into view.
   * @param {string} id
   */
  focus(id) {
    this.cards.get(id)?.element.focus({ preventScroll: true });
    this.#reveal(id);
  }

  /**
   * Moves the view just so far that a card is seen whole, its open part too.
   * @param {string} id
   */
  #reveal(id) {
    const place = this.places.get(id);
    const card = this.cards.get(id);
    if (!place || !card) return;
    const { x, y, zoom } = this.view;
    const left = place[0] * zoom + x;
    const top = place[1] * zoom + y;
    const { clientWidth, clientHeight } = this.pane;
    const below = byId("problems").hidden ? 14 : byId("problems").offsetHeight + 24;
    const bottom = top + card.element.offsetHeight * zoom;
    const dx = left < 12 ? 12 - left : Math.min(0, clientWidth - 30 - left - CARD_WIDTH * zoom);
    const dy = top < 12 ? 12 - top : Math.max(12 - top, Math.min(0, clientHeight - below - bottom));
    if (!dx && !dy) return;
    this.view.x += dx;
    this.view.y += dy;
    this.#applyView();
  }

  /**
   * @param {number} clientX
   * @param {number} clientY
   * @returns {Point}
   */
  toWorld(clientX, clientY) {
    const box = this.pane.getBoundingClientRect();
    return [(clientX - box.left - this.view.x) / this.view.zoom, (clientY - box.top - this.view.y) / this.view.zoom];
  }

  /**
   * @param {string} node
   * @param {string} output
   * @returns {Point}
   */
  outputPoint(node, output) {
    const place = this.places.get(node) ?? [0, 0];
    const row = this.cards.get(node)?.element.querySelector(`[data-out="${output}"] .pin`);
    const y = row instanceof HTMLElement ? offsetWithin(row, ".card") + row.offsetHeight / 2 : 20;
    return [place[0] + CARD_WIDTH, place[1] + y];
  }

  /**
   * @param {string} node
   * @param {string} input
   * @returns {Point}
   */
  inputPoint(node, input) {
    if (node === "dock") {
      const row = document.querySelector(`#dock [data-input="${input}"]`);
      const box = (row ?? this.pane).getBoundingClientRect();
      return this.toWorld(this.pane.getBoundingClientRect().right, box.top + box.height / 2);
    }
    const place = this.places.get(node) ?? [0, 0];
    const row = this.cards.get(node)?.element.querySelector(`[data-input="${input}"]`);
    const y = row instanceof HTMLElement ? offsetWithin(row, ".card") + row.offsetHeight / 2 : 20;
    return [place[0], place[1] + y];
  }

  #drawWires() {
    if (!this.model.state) return;
    const drawn = [];
    const { problems, types, swatches } = this.model.state;
    const broken = new Set(problems.filter((p) => p.severity === "error").map((p) => `${p.node}.${p.input}`));
    for (const [id, node] of this.model.nodes) {
      for (const [input, [source, output]] of Object.entries(node.wires ?? {})) {
        const key = `${source}.${output}`;
        const type = types[key] ?? "number";
        drawn.push(
          wire(this.outputPoint(source, output), this.inputPoint(id, input), {
            type,
            strands: this.model.settings.strands[type] ?? 1,
            colour: dye(swatches[key]?.mean),
            wrong: broken.has(`${id}.${input}`),
            chosen: this.selection.has(id) || this.selection.has(source),
            label: `${this.model.nameOf(source)} to ${this.model.port(id, input).name}${id === "dock" ? "" : ` of ${this.model.nameOf(id)}`}`,
          }),
        );
      }
    }
    this.wireLayer.replaceChildren(svg("g", {}), ...drawn);
  }

  /** @param {string[]} ids */
  select(ids) {
    const before = this.selection;
    this.selection = new Set(ids);
    if (before.size === ids.length && ids.every((id) => before.has(id))) return;
    this.#showCards();
    this.#drawWires();
    this.pane.dispatchEvent(new Event("selection"));
  }

  /** @param {FocusEvent} event */
  #focused(event) {
    const card = /** @type {HTMLElement} */ (event.target).closest(".card");
    const id = card instanceof HTMLElement ? (card.dataset.node ?? "") : "";
    if (id && !this.isRestoring && !this.selection.has(id)) this.select([id]);
  }

  /** @param {PointerEvent} event */
  #press(event) {
    const target = /** @type {HTMLElement} */ (event.target);
    const card = /** @type {HTMLElement | null} */ (target.closest(".card"));
    if (target.closest("input, select, button, #problems")) return;
    if (event.button === 1 || (event.button === 0 && !card)) {
      if (!card && event.button === 0 && !event.shiftKey) this.select([]);
      event.preventDefault();
      this.pane.focus({ preventScroll: true });
      this.#pan(event);
    } else if (event.button === 0 && card) {
      event.preventDefault();
      this.#pressCard(event, card.dataset.node ?? "");
    }
  }

  /**
   * @param {PointerEvent} start
   * @param {(dx: number, dy: number) => void} move
   * @param {(moved: boolean) => void} [done]
   */
  #follow(start, move, done) {
    let moved = false;
    /** @param {PointerEvent} event */
    const onMove = (event) => {
      const [dx, dy] = [event.clientX - start.clientX, event.clientY - start.clientY];
      moved ||= Math.hypot(dx, dy) > DRAG;
      if (moved) move(dx, dy);
    };
    const onEnd = () => {
      removeEventListener("pointermove", onMove);
      removeEventListener("pointerup", onEnd);
      removeEventListener("pointercancel", onEnd);
      done?.(moved);
    };
    addEventListener("pointermove", onMove);
    addEventListener("pointerup", onEnd);
    addEventListener("pointercancel", onEnd);
  }

  /** @param {PointerEvent} event */
  #pan(event) {
    const { x, y } = this.view;
    this.#follow(event, (dx, dy) => {
      Object.assign(this.view, { x: x + dx, y: y + dy });
      this.#applyView();
    });
  }

  /**
   * @param {PointerEvent} event
   * @param {string} id
   */
  #pressCard(event, id) {
    if (event.shiftKey) {
      this.pane.focus({ preventScroll: true });
      const others = [...this.selection].filter((other) => other !== id);
      return this.select(this.selection.has(id) ? others : [...this.selection, id]);
    }
    if (!this.selection.has(id)) this.select([id]);
    this.cards.get(id)?.element.focus({ preventScroll: true });
    const starts = new Map([...this.selection].map((key) => [key, this.places.get(key) ?? [0, 0]]));
    const { zoom } = this.view;
    this.#follow(
      event,
      (dx, dy) => {
        for (const [key, [x, y]] of starts) {
          this.places.set(key, [x + dx / zoom, y + dy / zoom]);
          this.#place(key, [x + dx / zoom, y + dy / zoom]);
        }
        this.#drawWires();
      },
      (moved) => {
        if (moved) return this.keepPlaces([...starts.keys()]);
        this.select([id]);
        this.#reveal(id);
      },
    );
  }

  /** @param {string[]} ids */
  keepPlaces(ids) {
    this.shape = "";
    const places = ids.map((id) => [id, (this.places.get(id) ?? [0, 0]).map(Math.round)]);
    void this.model.edit({ op: "move_nodes", places: Object.fromEntries(places) });
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    event.preventDefault();
    if (event.shiftKey) {
      this.view.x -= event.deltaY || event.deltaX;
      return this.#applyView();
    }
    const box = this.pane.getBoundingClientRect();
    this.zoom(Math.exp(-event.deltaY * 0.0012), event.clientX - box.left, event.clientY - box.top);
  }

  /**
   * @param {number} factor
   * @param {number} [atX] the place that stays, from the pane's corner
   * @param {number} [atY]
   */
  zoom(factor, atX = this.pane.clientWidth / 2, atY = this.pane.clientHeight / 2) {
    const { x, y, zoom } = this.view;
    const next = Math.min(MOST_ZOOM, Math.max(LEAST_ZOOM, zoom * factor));
    const share = next / zoom;
    this.view = { zoom: next, x: atX - (atX - x) * share, y: atY - (atY - y) * share };
    this.#applyView();
  }

  add() {
    chooseNode(this.model, (key) => {
      const id = this.model.freshId(key);
      this.coming = id;
      void this.model.edit({ op: "add_node", node: { id, type: key } });
    });
  }
}
