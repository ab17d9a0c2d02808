/** The cards on the pane: made anew where they changed, measured once, kept otherwise. */
import { offsetWithin } from "moth/base/dom.js";
import { makeCard, refreshCard } from "moth/workbench/graph/cards/cards.js";
import { CARD_WIDTH, GAP } from "moth/workbench/graph/places/layout.js";

/** @typedef {import("../../model/model.js").GraphModel} GraphModel */
/** @typedef {{ element: HTMLElement, look: string, height: number, pins: Map<string, number>, picture: HTMLImageElement }} Card */

/** Room that is looked for where a card is to come whose height nobody knows yet. */
const NEW_HEIGHT = 150;

export class CardLayer {
  /**
   * @param {GraphModel} model
   * @param {HTMLElement} world
   */
  constructor(model, world) {
    this.model = model;
    this.world = world;
    /** @type {Map<string, Card>} */
    this.cards = new Map();
    /** Whether the keyboard is being given back after a redraw, which is nobody's choice of a card. */
    this.isRestoring = false;
    /** Cards that look otherwise than the rest: the selected ones. @type {Set<string>} */
    this.special = new Set();
  }

  /**
   * @param {Set<string>} selection
   * @param {Map<string, unknown>} hidden the nodes whose cards are folded away
   * @param {Set<string> | null} [touched] the nodes that may have changed; any, where it is not told
   */
  show(selection, hidden, touched = null) {
    const focused = /** @type {HTMLElement | null} */ (document.activeElement);
    const focusKey = this.world.contains(focused) ? (focused?.dataset.focus ?? "") : "";
    let lost = false;
    for (const [id, card] of this.cards) {
      if (!this.model.nodes.has(id)) {
        lost ||= card.element.contains(focused);
        card.element.remove();
        this.cards.delete(id);
      }
    }
    /** @type {Card[]} */
    const fresh = [];
    const special = new Set(selection);
    for (const id of this.model.nodes.keys()) {
      if (id === "dock") continue;
      const isKept = touched && !touched.has(id) && !special.has(id) && !this.special.has(id);
      if (isKept && this.cards.get(id)?.element.hidden === hidden.has(id)) continue;
      const look = this.#look(id);
      let card = this.cards.get(id);
      if (!card || card.look !== look) {
        const element = makeCard(this.model, id);
        if (card) {
          element.style.left = card.element.style.left;
          element.style.top = card.element.style.top;
          lost ||= card.element.contains(focused);
          card.element.replaceWith(element);
        } else this.world.append(element);
        card = {
          element,
          look,
          height: 0,
          pins: new Map(),
          picture: /** @type {any} */ (element.querySelector(".swatch")),
        };
        this.cards.set(id, card);
        fresh.push(card);
      }
      if (card.element.hidden !== hidden.has(id)) {
        card.element.hidden = hidden.has(id);
        if (!card.element.hidden) fresh.push(card);
      }
      card.element.classList.toggle("selected", selection.has(id));
      refreshCard(this.model, id, card.element);
    }
    this.special = special;
    measure(fresh);
    if (lost) this.#giveBack(focusKey, selection);
  }

  /** Shows every card's value anew: that of a pin, or its own. */
  refreshValues() {
    for (const [id, card] of this.cards) refreshCard(this.model, id, card.element);
  }

  /** Measures every card again, after all have changed their shape. */
  measureAll() {
    measure([...this.cards.values()]);
  }

  /**
   * Everything a card shows save its picture and value, as text.
   * @param {string} id
   */
  #look(id) {
    const { model } = this;
    const node = model.nodes.get(id);
    const type = model.typeOf(id);
    return JSON.stringify([
      node,
      model.hasMore.has(id),
      type.inputs.map((p) => [model.value(id, p.key), model.state.input_types[`${id}.${p.key}`]]),
      type.outputs.map((o) => [model.state.types[`${id}.${o.key}`], model.outputName(id, o)]),
      model.parametersOf(id),
      model.problemsOf(id).map((p) => [p.severity, p.input, p.what]),
      Object.values(node?.wires ?? {}).map(([source]) => model.nodes.get(source)?.label),
    ]);
  }

  /**
   * @param {string} focusKey
   * @param {Set<string>} selection
   */
  #giveBack(focusKey, selection) {
    const [id] = selection;
    const before = this.world.querySelector(`[data-focus="${focusKey}"]`);
    const chosen = this.cards.get(id)?.element;
    const again = before && (!chosen || chosen.contains(before)) ? before : chosen;
    this.isRestoring = true;
    (again instanceof HTMLElement ? again : /** @type {HTMLElement} */ (this.world.parentElement)).focus({
      preventScroll: true,
    });
    this.isRestoring = false;
  }

  /**
   * @param {Map<string, [number, number]>} places
   * @param {Iterable<string>} ids the cards that may have to move
   */
  place(places, ids) {
    for (const id of ids) {
      const element = this.cards.get(id)?.element;
      if (!element) continue;
      const [x, y] = places.get(id) ?? [0, 0];
      // Not by a transform: a page keeps account of every transform, at every movement of the view.
      const [left, top] = [`${Math.round(x)}px`, `${Math.round(y)}px`];
      if (element.style.left !== left) element.style.left = left;
      if (element.style.top !== top) element.style.top = top;
    }
  }

  /**
   * How high a card is.
   * @param {string} id
   */
  height(id) {
    return this.cards.get(id)?.height ?? 60;
  }

  /**
   * The cards that lie in a box, if only in part.
   * @param {Map<string, [number, number]>} places
   * @param {import("../places/viewport.js").Box} box
   */
  inside(places, { left, top, right, bottom }) {
    return [...places]
      .filter(([id, [x, y]]) => x < right && x + CARD_WIDTH > left && y < bottom && y + this.height(id) > top)
      .map(([id]) => id);
  }

  /**
   * The place nearest to the wished one where a new card covers none.
   * @param {Map<string, [number, number]>} places
   * @param {[number, number]} wished
   * @returns {[number, number]}
   */
  freePlace(places, [x, y]) {
    const [across, down] = [CARD_WIDTH + GAP, NEW_HEIGHT];
    const tried = [];
    for (let i = -6; i <= 6; i += 1) for (let j = -8; j <= 8; j += 1) tried.push([i * across, j * down]);
    tried.sort(([a, b], [c, d]) => Math.hypot(a, b) - Math.hypot(c, d));
    const [dx, dy] = tried.find(([i, j]) => {
      const [left, top] = [x + i, y + j];
      return !this.inside(places, { left, top, right: left + CARD_WIDTH, bottom: top + NEW_HEIGHT }).length;
    }) ?? [0, 0];
    return [x + dx, y + dy];
  }

  /**
   * The box that cards fill.
   * @param {Map<string, [number, number]>} places
   * @param {Iterable<string>} [ids]
   */
  box(places, ids = places.keys()) {
    const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
    for (const id of ids) {
      const [x, y] = places.get(id) ?? [NaN, NaN];
      if (Number.isNaN(x)) continue;
      box.left = Math.min(box.left, x);
      box.top = Math.min(box.top, y);
      box.right = Math.max(box.right, x + CARD_WIDTH);
      box.bottom = Math.max(box.bottom, y + this.height(id));
    }
    return box.left === Infinity ? null : box;
  }
}

/**
 * Measures cards as they are at full size. All is written before anything is read, and again after: the page is
 * laid out once.
 * @param {Card[]} cards
 */
function measure(cards) {
  const seen = cards.filter(({ element }) => !element.hidden);
  for (const { element } of seen) element.classList.remove("measured");
  const heads = seen.map((card) => {
    measureOne(card);
    return /** @type {HTMLElement} */ (card.element.querySelector(".card-head")).offsetHeight;
  });
  seen.forEach(({ element, height }, i) => {
    element.style.setProperty("--head", `${heads[i]}px`);
    element.style.setProperty("--body", `${height}px`);
    element.classList.add("measured");
  });
}

/** @param {Card} card */
function measureOne(card) {
  const body = /** @type {HTMLElement} */ (card.element.querySelector(".card-body"));
  card.height = body.offsetHeight;
  for (const pin of card.element.querySelectorAll(".pin")) {
    const row = /** @type {HTMLElement} */ (pin.closest("[data-out], [data-input]"));
    const key = row.dataset.out === undefined ? `in ${row.dataset.input}` : `out ${row.dataset.out}`;
    const at = /** @type {HTMLElement} */ (row.dataset.out === undefined ? row : pin);
    card.pins.set(key, offsetWithin(at, ".card") + at.offsetHeight / 2);
  }
}
