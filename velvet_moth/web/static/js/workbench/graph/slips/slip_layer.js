/** The slips over the graph: one beside the card that is open, and those that are kept. */
import { follow, h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { CARD_WIDTH } from "moth/workbench/graph/places/layout.js";
import { slipLook, slipParts } from "moth/workbench/graph/slips/slip.js";
import { shownBox } from "moth/workbench/graph/places/viewport.js";
import { placeByHand, placeSlip } from "moth/workbench/graph/slips/slip_place.js";

/**
 * @typedef {object} Pane what slips ask of the pane
 * @property {import("../../model/model.js").GraphModel} model
 * @property {HTMLElement} pane
 * @property {import("../places/viewport.js").Viewport} view
 * @property {import("../cards/card_layer.js").CardLayer} layer
 * @property {import("../wires/wire_layer.js").WireLayer} wires
 * @property {Map<string, [number, number]>} places
 * @property {Set<string>} selection
 * @property {(ids: string[]) => void} point shows which cards something is about
 */
/** @typedef {import("./slip_place.js").Box} Box */
/** @typedef {{ element: HTMLElement, name: HTMLInputElement, body: HTMLElement, content: HTMLElement, look: string, rule: string, isKept: boolean, at: [number, number] | null }} Slip */

/** Free room between a slip and the edge of the pane. */
const MARGIN = 10;
/** What an arrow key moves a slip by. */
const STEP = 24;

export class SlipLayer {
  /** @param {Pane} pane */
  constructor(pane) {
    this.pane = pane;
    this.model = pane.model;
    this.layer = h("div", { id: "slips" });
    pane.pane.append(this.layer);
    /** By the id of the card. @type {Map<string, Slip>} */
    this.slips = new Map();
    pane.view.addEventListener("view", () => this.place());
    for (const event of ["moved", "shown", "panels"]) pane.pane.addEventListener(event, () => this.place());
    pane.pane.addEventListener("selection", () => this.#leave());
    /** Of the pane, and of what slips hold: it grows when an answer comes. */
    this.sizes = new ResizeObserver(() => this.place());
    this.sizes.observe(pane.pane);
  }

  /**
   * Opens the slip of a card, in place of the one that is not kept.
   * @param {string} id
   * @param {boolean} [enter] whether the keyboard goes into it
   */
  open(id, enter = false) {
    if (!this.model.nodes.has(id) || id === "dock") return;
    for (const [other, { isKept }] of this.slips) if (other !== id && !isKept) this.close(other);
    if (!this.slips.has(id)) this.#make(id);
    const slip = /** @type {Slip} */ (this.slips.get(id));
    // A kept one is closed by its own button, or by Escape while it has the keyboard.
    const isOnTop = () => this.slips.get(id) === slip && !slip.isKept;
    opened(isOnTop, () => this.close(id, true));
    this.layer.append(slip.element);
    this.show();
    this.place();
    if (enter) firstField(slip.body)?.focus({ preventScroll: true });
  }

  /**
   * @param {string} id
   * @param {boolean} [back] whether the card has the keyboard next
   */
  close(id, back = false) {
    const slip = this.slips.get(id);
    if (!slip) return;
    this.slips.delete(id);
    this.sizes.unobserve(slip.content);
    // A field half typed keeps its value as it loses the keyboard, so that goes first.
    if (slip.element.contains(document.activeElement)) /** @type {HTMLElement} */ (document.activeElement).blur();
    slip.element.remove();
    this.pane.point([]);
    if (back) this.pane.layer.cards.get(id)?.element.focus({ preventScroll: true });
  }

  /** A slip that is not kept is there for the one card that is selected. */
  #leave() {
    const { selection } = this.pane;
    for (const [id, { isKept }] of this.slips) {
      if (!isKept && !(selection.size === 1 && selection.has(id))) this.close(id);
    }
  }

  /** Draws again what has changed. */
  show() {
    for (const [id, slip] of this.slips) {
      if (!this.model.nodes.has(id)) {
        this.close(id);
        continue;
      }
      const look = slipLook(this.model, id);
      if (look === slip.look) continue;
      slip.look = look;
      const focused = /** @type {HTMLElement | null} */ (document.activeElement);
      const key = slip.element.contains(focused) ? focused?.dataset.focus : undefined;
      const { scrollTop } = slip.body;
      this.#showName(id, slip);
      slip.content.replaceChildren(...slipParts(this.model, id));
      slip.body.scrollTop = scrollTop;
      if (!key) continue;
      const again = slip.body.querySelector(`[data-focus="${CSS.escape(key)}"]`) ?? slip.element;
      /** @type {HTMLElement} */ (again).focus({ preventScroll: true });
    }
  }

  /**
   * @param {string} id
   * @param {Slip} slip
   */
  #showName(id, { element, name }) {
    const type = this.model.typeOf(id).name;
    const label = this.model.nodes.get(id)?.label ?? "";
    element.setAttribute("aria-label", label ? `${label}, ${type}` : type);
    /** @type {HTMLElement} */ (element.querySelector("header p")).textContent = label && label !== type ? type : "";
    const isTyped = document.activeElement === name && name.value !== name.defaultValue;
    if (!isTyped) name.value = label;
    name.defaultValue = label;
  }

  /** @param {string} id */
  #make(id) {
    const type = this.model.typeOf(id).name;
    const name = h("input", {
      class: "slip-name",
      placeholder: type,
      maxlength: 80,
      "aria-label": `Name of ${type}`,
      title: "Its name: type another",
      data: { focus: `${id}.label` },
    });
    name.addEventListener("change", () => void this.model.edit({ op: "label_node", node: id, label: name.value }));
    const content = h("div", { class: "slip-content" });
    const body = h("div", { class: "slip-body" }, content);
    const keep = h(
      "button",
      { type: "button", class: "button small", "aria-pressed": "false", title: "Stays when another card is chosen" },
      "Keep open",
    );
    const close = h("button", { type: "button", class: "button small", "aria-label": "Close slip" }, "×");
    const moves = "Move slip: drag it, or press the arrow keys";
    const grip = h("button", { type: "button", class: "grip", "aria-label": moves, title: moves }, "⠿");
    const head = h("header", {}, grip, h("div", {}, name, h("p", { class: "quiet" })), keep, close);
    const element = h("aside", { class: "slip over-pane", tabindex: -1, data: { node: id } }, head, body);
    /** @type {Slip} */
    const slip = { element, name, body, content, look: "", rule: "", isKept: false, at: null };
    this.slips.set(id, slip);
    keep.addEventListener("click", () => {
      slip.isKept = !slip.isKept;
      keep.setAttribute("aria-pressed", String(slip.isKept));
      this.#leave();
    });
    close.addEventListener("click", () => this.close(id, true));
    head.addEventListener("pointerdown", (event) => this.#drag(slip, event));
    element.addEventListener("keydown", (event) => this.#press(id, slip, event));
    element.addEventListener("pointerenter", () => this.pane.point([id]));
    element.addEventListener("pointerleave", () => this.pane.point([]));
    this.sizes.observe(content);
  }

  /**
   * @param {Slip} slip
   * @param {PointerEvent} event
   */
  #drag(slip, event) {
    if (event.button !== 0 || /** @type {Element} */ (event.target).closest("button:not(.grip), input")) return;
    // To the front: its place among the slips is what is drawn last, and moving it would take its keyboard away.
    if (this.layer.lastChild !== slip.element) this.layer.append(slip.element);
    const { offsetLeft, offsetTop } = slip.element;
    follow(event, (dx, dy) => this.#moveTo(slip, offsetLeft + dx, offsetTop + dy));
  }

  /**
   * @param {Slip} slip
   * @param {number} left
   * @param {number} top
   */
  #moveTo(slip, left, top) {
    slip.at = [left, top];
    this.place();
  }

  /**
   * The keyboard is the slip's own, save for undo, redo and the like.
   * @param {string} id
   * @param {Slip} slip
   * @param {KeyboardEvent} event
   */
  #press(id, slip, event) {
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (arrow && /** @type {Element} */ (event.target).matches(".grip")) {
      const { offsetLeft, offsetTop } = slip.element;
      this.#moveTo(slip, offsetLeft + arrow[0] * STEP, offsetTop + arrow[1] * STEP);
    } else if (event.ctrlKey || event.metaKey) return;
    else if (event.key === "Escape") {
      slip.name.value = slip.name.defaultValue;
      this.close(id, true);
    } else return event.stopPropagation();
    event.stopPropagation();
    event.preventDefault();
  }

  /** Brings every slip beside its card, or to where it was moved by hand. */
  place() {
    if (!this.slips.size) return;
    const { pane, view } = this.pane;
    const { left, top, right, bottom } = view.free;
    const bounds = { left: left + MARGIN, top, right: right - MARGIN, bottom };
    const corners = ["#hints", "#overview", "#finder"].map((selector) => shownBox(pane, selector));
    const panels = corners.filter((box) => box !== null);
    for (const [id, slip] of this.slips) panels.push(this.#placeOne(id, slip, bounds, panels));
  }

  /**
   * @param {string} id
   * @param {Slip} slip
   * @param {Box} bounds
   * @param {Box[]} panels and slips that have their place already
   */
  #placeOne(id, slip, bounds, panels) {
    const { element } = slip;
    const width = element.offsetWidth;
    const head = /** @type {HTMLElement} */ (element.firstElementChild).offsetHeight;
    const height = head + slip.content.offsetHeight + 2;
    const found = slip.at
      ? placeByHand({ width, height }, slip.at, bounds, head * 2)
      : placeSlip({ width, height }, this.#around(id, bounds, panels), slip.rule);
    slip.rule = found.rule;
    for (const side of /** @type {const} */ (["left", "top", "height"])) {
      element.style[side] = `${Math.round(found[side])}px`;
    }
    const { left, top } = found;
    return { left, top, right: left + width, bottom: top + found.height };
  }

  /**
   * @param {string} id
   * @param {Box} bounds
   * @param {Box[]} panels
   */
  #around(id, bounds, panels) {
    const { places, layer, view } = this.pane;
    /** @param {string} card @returns {Box} */
    const boxOf = (card) => {
      const [x, y] = places.get(card) ?? [0, 0];
      const [left, top] = view.toPane([x, y]);
      const [right, bottom] = view.toPane([x + CARD_WIDTH, y + layer.height(card)]);
      return { left, top, right, bottom };
    };
    const [left, top] = [-view.x / view.zoom, -view.y / view.zoom];
    const { clientWidth, clientHeight } = this.pane.pane;
    const seen = { left, top, right: left + clientWidth / view.zoom, bottom: top + clientHeight / view.zoom };
    const others = layer.inside(places, seen).filter((other) => other !== id && layer.cards.has(other));
    const ends = this.pane.wires.endsOf(id).map((end) => view.toPane(end));
    return { bounds, card: boxOf(id), ends, cards: others.map(boxOf), panels };
  }
}

/** @param {HTMLElement} body @returns {HTMLElement | null} */
const firstField = (body) => body.querySelector(":is(input, select, button):not(.unplug, .parameter-toggle)");
