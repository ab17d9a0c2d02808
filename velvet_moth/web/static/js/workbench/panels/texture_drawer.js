/** The project's textures beside the graph: chosen for a field, or dragged onto a card, an input, or the ground. */
import { h } from "moth/base/dom.js";
import { TextureList } from "moth/pictures/textures.js";
import { textureChoice } from "moth/workbench/shared/texture_choice.js";
import { carry } from "moth/fields/carry.js";
import { sidePanel, togglePanel } from "moth/workbench/panels/side_panel.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../../types.d.ts").TextureInfo} TextureInfo */

/** The node that reads a texture of a role; a sheet of frames is played. @param {TextureInfo} texture */
const readerOf = ({ role, frames }) => (frames ? "frame_sequence" : role === "normal" ? "normal_map" : "texture");

/** What a node that reads a texture is set to. @param {TextureInfo} texture */
const valuesFor = ({ id, frames }) => ({
  texture: id,
  ...(frames ? { columns: [frames.columns], rows: [frames.rows], rate: [frames.rate] } : {}),
});

/**
 * Puts a card that reads a texture onto the graph.
 * @param {GraphPane} pane
 * @param {TextureInfo} texture
 * @param {{ clientX: number, clientY: number } | null} at
 */
export const addTexture = (pane, texture, at) =>
  pane.addNode(readerOf(texture), at, { label: texture.name, values: valuesFor(texture) });

const BROWSING = "Drag one onto a card or the ground, or press it to add a card.";

export class TextureDrawer {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    this.list = new TextureList((texture) =>
      this.choice ? this.#choose(texture.id) : addTexture(pane, texture, null),
    );
    this.list.grid.element.addEventListener("pointerdown", (event) => this.#carry(event));
    /** What the next press chooses for, if anything. @type {import("../shared/texture_choice.js").Choice | null} */
    this.choice = null;
    /** Whether the drawer stays open after something was chosen. */
    this.wasOpen = false;
    this.words = h("p", { class: "quiet" });
    this.none = h("button", { type: "button", class: "button small", onclick: () => this.#choose("") }, "Use none");
    const toggle = () => this.toggle();
    this.panel = sidePanel(
      pane,
      { id: "texture-drawer", name: "Textures", title: "Textures", tools: [this.none], toggle },
      this.words,
      this.list.element,
    );
    textureChoice.ask = (choice) => this.#ask(choice);
    addEventListener("focus", () => this.refresh());
  }

  toggle() {
    const { choice } = this;
    this.#say(null);
    if (choice && this.wasOpen) return void this.list.load().then(() => fieldOf(choice)?.focus());
    if (togglePanel(this.pane, this.panel, () => this.toggle()))
      return void this.list.load().then(() => this.list.find.focus());
    if (choice) fieldOf(choice)?.focus();
  }

  /** Lists what there is now, if the drawer is open. */
  refresh() {
    if (!this.panel.hidden) void this.list.load();
  }

  /** @param {import("../shared/texture_choice.js").Choice} choice */
  #ask(choice) {
    if (!this.choice) this.wasOpen = !this.panel.hidden;
    this.#say(choice);
    if (this.panel.hidden) togglePanel(this.pane, this.panel, () => this.toggle());
    this.list.find.value = "";
    this.list.find.focus();
    void this.list.load().then(() => {
      this.list.grid.element.querySelector("[aria-pressed=true]")?.scrollIntoView({ block: "nearest" });
    });
  }

  /** @param {import("../shared/texture_choice.js").Choice | null} choice */
  #say(choice) {
    this.choice = choice;
    this.list.chosen = choice?.chosen ?? "";
    this.words.textContent = choice ? `Press one for ${choice.title}.` : BROWSING;
    this.words.classList.toggle("choosing", !!choice);
    this.none.hidden = !choice?.canBeNone || !choice.chosen;
  }

  /** @param {string} id */
  #choose(id) {
    const { choice } = this;
    if (!choice) return;
    choice.choose(id);
    this.toggle();
  }

  /** @param {PointerEvent} event */
  #carry(event) {
    const tile = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest(".texture-tile"));
    if (!tile) return;
    const texture = this.list.of(tile.dataset.texture ?? "");
    event.preventDefault();
    tile.focus();
    carry(event, texture.name, (element, now) => this.#over(texture, element, now));
  }

  /**
   * @param {TextureInfo} texture
   * @param {Element | null} element
   * @param {PointerEvent} at
   */
  #over(texture, element, at) {
    const { model } = this.pane;
    const card = /** @type {HTMLElement | null} */ (element?.closest(".card") ?? null);
    const row = /** @type {HTMLElement | null} */ (element?.closest("[data-input]") ?? null);
    const node = (card ?? row)?.dataset.node;
    if (node) {
      const inputs = model.typeOf(node).inputs.filter((port) => port.type === "texture");
      const port = inputs.find((p) => p.key === row?.dataset.input) ?? inputs[0];
      const act = () => void model.keep(node, port.key, texture.id);
      return port ? { words: `onto ${port.name} of ${model.nameOf(node)}`, act, onto: card ?? row } : null;
    }
    if (!element?.closest("#graph-pane") || element.closest(".over-pane")) return null;
    return { words: "as a card of its own", act: () => void addTexture(this.pane, texture, at) };
  }
}

/**
 * The field that a texture was chosen for: it may have been drawn again since.
 * @param {import("../shared/texture_choice.js").Choice} choice
 */
const fieldOf = ({ key }) =>
  /** @type {HTMLElement | null} */ (document.querySelector(`[data-focus="${CSS.escape(key)}"]`));
