/** The project's textures beside the graph: to be dragged onto a card, an input, or the ground. */
import { getJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { textureDialog, textureTile } from "moth/pictures/textures.js";
import { carry } from "moth/fields/carry.js";
import { sidePanel, togglePanel } from "moth/workbench/panels/side_panel.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {import("../../types.d.ts").TextureInfo} TextureInfo */

/** The node that reads a texture of a role. @param {string} role */
const readerOf = (role) => (role === "normal" ? "normal_map" : "texture");

/**
 * Puts a card that reads a texture onto the graph.
 * @param {GraphPane} pane
 * @param {TextureInfo} texture
 * @param {{ clientX: number, clientY: number } | null} at
 */
export const addTexture = (pane, texture, at) =>
  pane.addNode(readerOf(texture.role), at, { label: texture.name, values: { texture: texture.id } });

export class TextureDrawer {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    this.list = h("div", { class: "texture-grid" });
    const more = h("button", { type: "button", class: "button small", onclick: () => this.#more() }, "Import or make");
    const toggle = () => this.toggle();
    this.panel = sidePanel(
      pane,
      { id: "texture-drawer", name: "Textures", title: "Textures", tools: [more], toggle },
      h("p", { class: "quiet" }, "Drag one onto a card or the ground, or press it to add a card."),
      this.list,
    );
  }

  toggle() {
    if (togglePanel(this.pane, this.panel)) this.#load().then(() => this.list.querySelector("button")?.focus());
  }

  #more() {
    void textureDialog({ added: () => void this.#load() });
  }

  async #load() {
    try {
      const { textures } = await getJson("/api/textures");
      this.list.replaceChildren(...textures.map((/** @type {TextureInfo} */ texture) => this.#tile(texture)));
      if (!textures.length) this.list.append(h("p", { class: "quiet" }, "None yet: import a picture or make one."));
    } catch (error) {
      tell(error);
    }
  }

  /** @param {TextureInfo} texture */
  #tile(texture) {
    const tile = textureTile(texture, false, () => void addTexture(this.pane, texture, null));
    tile.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      tile.focus();
      carry(event, texture.name, (element, now) => this.#over(texture, element, now));
    });
    return tile;
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
