/** A block model of the server as the page knows it: its state, and what has changed of its surface. */
import { send } from "moth/base/api.js";
import { DocumentModel } from "moth/base/document_model.js";

/** @typedef {import("../types.d.ts").BlockModelState} BlockModelState */
/** @typedef {import("../types.d.ts").BlockSurface} BlockSurface */
/** @typedef {import("../stage/chunks.js").Chunk} Chunk */

const decoder = new TextDecoder();

/**
 * What the server sends: the length of a text, the text, and the arrays of each chunk one after the other.
 * @param {ArrayBuffer} bytes
 * @returns {{ head: BlockSurface, chunks: Chunk[] }}
 */
function unpacked(bytes) {
  const [length] = new Uint32Array(bytes, 0, 1);
  const head = /** @type {BlockSurface} */ (JSON.parse(decoder.decode(new Uint8Array(bytes, 4, length))));
  let at = 4 + length;
  /** @template T @param {new (bytes: ArrayBuffer, at: number, count: number) => T} Kind @param {number} count @param {number} size */
  const taken = (Kind, count, size) => {
    const found = new Kind(bytes, at, count);
    at += count * size;
    return found;
  };
  const chunks = head.chunks.map(({ at: place, faces }) => ({
    at: place,
    faces,
    position: taken(Float32Array, faces * 12, 4),
    second: taken(Float32Array, faces * 8, 4),
    uv: taken(Int16Array, faces * 8, 2),
    normal: taken(Int8Array, faces * 16, 1),
    tangent: taken(Int8Array, faces * 16, 1),
  }));
  return { head, chunks };
}

/** Events: as of every document, and `surface` with what has changed of it. @extends {DocumentModel<BlockModelState, unknown>} */
export class BlockModel extends DocumentModel {
  /** @param {number} key */
  constructor(key) {
    super(`/api/blocks/${key}`, "model");
    /** Which layers are shown: across an axis, from one to another; all where there is no axis. */
    this.layers = { axis: "", first: 0, last: 0 };
  }

  /** @override */
  get view() {
    const { axis, first, last } = this.layers;
    return /** @type {any} */ (axis ? { axis, first, last } : {});
  }

  /**
   * @override
   * @param {string} step
   * @param {Record<string, unknown>} body
   */
  async send(step, body) {
    const sent = JSON.stringify({ ...this.view, ...body, revision: this.state.revision });
    const headers = { "Content-Type": "application/json" };
    return this.#read(await send(`${this.url}/${step}`, { method: "POST", headers, body: sent }));
  }

  /** @override */
  async fetch() {
    this.take(await this.#read(await send(`${this.url}?${new URLSearchParams(this.view)}`)));
    return true;
  }

  /** @param {Response} response @returns {Promise<BlockModelState>} */
  async #read(response) {
    const { head, chunks } = unpacked(await response.arrayBuffer());
    this.dispatchEvent(new CustomEvent("surface", { detail: { chunks, isWhole: head.is_whole } }));
    return head.state;
  }

  /** Shows some layers, or all. @param {BlockModel["layers"]} layers */
  show(layers) {
    this.layers = layers;
    return this.load();
  }
}
