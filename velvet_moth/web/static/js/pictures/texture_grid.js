/** Tiles of textures: one is made again only where its texture has changed, so that no press on one is lost. */
import { h } from "moth/base/dom.js";

/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */

/**
 * The address of a small picture of a texture, another one whenever it has changed.
 * @param {string} id
 * @param {number} [revision]
 */
export const pictureOf = (id, revision = 0) => `/api/textures/${id}/picture.png?v=${revision}`;

/**
 * Those textures of which every word is in the name or in what they are.
 * @template {TextureInfo} T
 * @param {T[]} textures
 * @param {string} query
 */
export function matching(textures, query) {
  const words = query.toLowerCase().split(/\s+/);
  return textures.filter(({ name, role, format, depth }) => {
    const text = `${name} ${role} ${format} ${depth}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

export class TextureGrid {
  /**
   * @param {HTMLElement} element
   * @param {(id: string) => void} press
   */
  constructor(element, press) {
    this.element = element;
    this.press = press;
    /** By id. @type {Map<string, { look: string, tile: HTMLElement }>} */
    this.tiles = new Map();
  }

  /**
   * @param {TextureInfo[]} textures
   * @param {{ chosen?: string, coming?: string, nothing: string }} how which is chosen, which is on its way, and what is
   *   said where there is none
   */
  draw(textures, { chosen, coming, nothing }) {
    const before = this.tiles;
    this.tiles = new Map();
    for (const texture of textures) {
      const look = JSON.stringify([texture.name, texture.role, texture.width, texture.revision]);
      const known = before.get(texture.id);
      const tile = known?.look === look ? known.tile : this.#make(texture);
      tile.ariaPressed = String(texture.id === chosen);
      tile.ariaBusy = String(texture.id === coming && coming !== chosen);
      this.tiles.set(texture.id, { look, tile });
    }
    const focus = [...before].find(([, { tile }]) => tile === document.activeElement)?.[0] ?? "";
    const wanted = [...this.tiles.values()].map(({ tile }) => tile);
    if (wanted.length !== this.element.children.length || wanted.some((tile, i) => tile !== this.element.children[i])) {
      this.element.replaceChildren(...wanted);
      if (!wanted.length) this.element.append(h("p", { class: "quiet" }, nothing));
      this.tiles.get(focus)?.tile.focus();
    }
  }

  /** @param {TextureInfo} texture */
  #make({ id, name, role, width, revision }) {
    return h(
      "button",
      { class: "texture-tile", type: "button", data: { texture: id }, onclick: () => this.press(id) },
      h("img", { src: pictureOf(id, revision), alt: "", draggable: "false" }),
      h("span", {}, name),
      h("span", { class: "quiet mono" }, `${role} · ${width}`),
    );
  }
}
