/** Directions on a mesh, seen as hair lines, streamlines, colours, or by a texture that they move. */
import { getJson, send } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { Lines } from "moth/flow/lines.js";

/** Places of a streamline, as the core traces it. */
const PLACES = 25;
/** How long a streamline is, as a share of the mesh. */
const LENGTH = 0.16;
/** @type {[string, string][]} */
const WAYS = [
  ["hairs", "as hair lines"],
  ["streamlines", "as streamlines"],
  ["heading", "as colours"],
  ["moved", "by a moving texture"],
];

/**
 * @typedef {{
 *   url: () => string,
 *   directions: () => { stack: unknown, step: string },
 *   plain?: string,
 *   restore: () => unknown,
 *   hasTime?: boolean,
 * }} Host `url` is that of the stack; `plain` are words for seeing the surface by itself; `restore` shows it as it is without
 *   directions; `hasTime` says that the time is played elsewhere on the page
 */

/** A bar to choose by, and what is chosen on the stage. */
export class FlowView {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {Host} host
   */
  constructor(stage, host) {
    this.stage = stage;
    this.host = host;
    this.lines = new Lines(stage);
    this.way = host.plain ? "" : "hairs";
    this.moved = { texture: "", repeat: 4, strength: 0.4, speed: 0.5 };
    /** @type {import("../types.d.ts").TextureInfo[]} */
    this.textures = [];
    /** Three numbers for each vertex, while directions are shown. @type {Float32Array | null} */
    this.numbers = null;
    /** The colours of the mesh, in whose place the directions are. @type {import("three").BufferAttribute | null} */
    this.kept = null;
    /** @type {import("three").BufferGeometry | null} */
    this.geometry = null;
    /** Whether the surface has another shader than its own. */
    this.isShaded = false;
    this.asked = 0;
    this.bar = h("div", { class: "flow-bar", hidden: true });
    this.#draw();
    stage.addEventListener("drawn", () => {
      // Another state of the mesh has come to the stage.
      if (this.numbers && this.geometry !== stage.mesh.geometry) void this.#apply().catch(tell);
    });
  }

  #draw() {
    const entries = this.host.plain ? [/** @type {[string, string]} */ (["", this.host.plain]), ...WAYS] : WAYS;
    const option = (/** @type {[string, string]} */ [value, words]) =>
      h("option", { value, selected: value === this.way }, words);
    const way = h("select", { class: "field", "aria-label": "Directions are seen" }, entries.map(option));
    way.addEventListener("change", () => {
      this.way = way.value;
      this.#draw();
      void this.#apply().catch(tell);
    });
    this.bar.replaceChildren(
      h("span", { class: "quiet" }, "Directions"),
      way,
      ...(this.way === "moved" ? this.#moving() : []),
    );
  }

  /** What can be chosen of a texture that moves. */
  #moving() {
    const { moved, stage } = this;
    const texture = h(
      "select",
      { class: "field", "aria-label": "Texture that is moved" },
      this.textures.map(({ id, name }) => h("option", { value: id, selected: id === moved.texture }, name)),
    );
    texture.addEventListener("change", () => this.#set({ texture: texture.value }));
    const range = (
      /** @type {"repeat" | "strength" | "speed"} */ key,
      /** @type {string} */ words,
      /** @type {number} */ min,
      /** @type {number} */ max,
    ) => {
      const field = h("input", { type: "range", min, max, step: 0.05, value: String(moved[key]), "aria-label": words });
      field.addEventListener("change", () => this.#set({ [key]: Number(field.value) }));
      return h("label", {}, h("span", { class: "quiet" }, words), field);
    };
    const play = h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(stage.isPlaying),
        onclick: () => {
          stage.setPlaying(!stage.isPlaying);
          this.#draw();
          /** @type {HTMLElement | null} */ (this.bar.querySelector("button"))?.focus();
        },
      },
      stage.isPlaying ? "Stop" : "Play",
    );
    return [
      texture,
      ...(this.host.hasTime ? [] : [play]),
      range("speed", "Speed", 0, 2),
      range("strength", "Way", 0.05, 1),
      range("repeat", "Repeats", 0.5, 16),
    ];
  }

  /** @param {Partial<FlowView["moved"]>} other */
  #set(other) {
    Object.assign(this.moved, other);
    void this.#apply().catch(tell);
  }

  /** @param {Float32Array} numbers along U, along V and the speed of each vertex */
  async show(numbers) {
    this.numbers = numbers;
    this.bar.hidden = false;
    await this.#apply();
  }

  /** Shows the surface by itself, since another shader has come to the stage. */
  rest() {
    if (!this.isShaded) return;
    this.isShaded = false;
    this.way = "";
    this.#draw();
    this.#restore();
  }

  /** Takes all of it away. */
  hide() {
    if (!this.numbers) return;
    this.numbers = null;
    this.bar.hidden = true;
    this.asked += 1;
    this.lines.hide();
    if (!this.host.hasTime) this.stage.setPlaying(false);
    this.#restore();
  }

  /**
   * What a brush has changed.
   * @param {Uint32Array} vertices
   * @param {Float32Array} values four for each vertex, the first three as in ``show``
   */
  change(vertices, values) {
    const { numbers } = this;
    if (!numbers) return;
    for (let at = 0; at < vertices.length; at += 1)
      for (let part = 0; part < 3; part += 1) numbers[vertices[at] * 3 + part] = values[at * 4 + part];
    if (this.kept) this.#colour(vertices);
    if (this.way === "hairs") this.lines.hairs(numbers);
    this.stage.moved();
  }

  /** The colours of the mesh itself, wherever they are now. */
  get colours() {
    return this.kept ?? this.stage.mesh.geometry.getAttribute("colour");
  }

  #restore() {
    if (this.kept && this.geometry) this.geometry.setAttribute("colour", this.kept);
    this.kept = null;
    if (this.isShaded) void this.host.restore();
    this.isShaded = false;
  }

  /** Puts the directions in the place of the colours. @param {Iterable<number>} [changed] only these vertices; all without any */
  #colour(changed) {
    const { geometry } = this.stage.mesh;
    const { numbers } = this;
    if (!numbers) return;
    if (!this.kept) {
      const own = /** @type {import("three").BufferAttribute} */ (geometry.getAttribute("colour"));
      this.kept = own;
      geometry.setAttribute("colour", own.clone());
    }
    const colour = /** @type {import("three").BufferAttribute} */ (geometry.getAttribute("colour"));
    for (const at of changed ?? Array(numbers.length / 3).keys())
      for (let part = 0; part < 3; part += 1) colour.array[at * 4 + part] = numbers[at * 3 + part];
    colour.needsUpdate = true;
  }

  async #apply() {
    const { stage, numbers, way } = this;
    if (!numbers) return;
    if (this.geometry !== stage.mesh.geometry) {
      this.kept = null;
      this.geometry = stage.mesh.geometry;
    }
    // A form that is still on its way has other vertices.
    if (stage.mesh.geometry.getAttribute("position").count < numbers.length / 3) return;
    const mine = ++this.asked;
    if (way === "hairs") this.lines.hairs(numbers);
    else if (way === "streamlines") await this.#trace(mine);
    else this.lines.hide();
    if (way === "heading" || way === "moved") await this.#shade(mine);
    else this.#restore();
  }

  /** @param {number} mine */
  async #trace(mine) {
    const { stack, step } = this.host.directions();
    const asked = { stack, step, length: this.lines.size * LENGTH };
    const headers = { "Content-Type": "application/json" };
    const answer = await send(`${this.host.url()}/lines`, { method: "POST", headers, body: JSON.stringify(asked) });
    const places = new Float32Array(await answer.arrayBuffer());
    if (this.asked === mine && this.way === "streamlines") this.lines.show(places, PLACES);
  }

  /** @param {number} mine */
  async #shade(mine) {
    if (this.way === "moved" && !this.textures.length) {
      ({ textures: this.textures } = await getJson("/api/textures"));
      const usual = this.textures.find(({ role }) => role === "colour") ?? this.textures[0];
      this.moved.texture ||= usual?.id ?? "";
      this.#draw();
    }
    const { texture, ...numbers } = this.moved;
    const query = new URLSearchParams({ texture });
    for (const [key, value] of Object.entries(numbers)) query.set(key, String(value));
    const { shader, values } = await getJson(
      this.way === "moved" ? `/api/meshes/moved?${query}` : "/api/meshes/shader/flow_heading",
    );
    if (this.asked !== mine) return;
    this.isShaded = true;
    this.#colour();
    await this.stage.setShader(shader, new Float32Array(values));
  }

  /** After a stroke is kept: what is not drawn from the numbers alone is fetched again. */
  refresh() {
    if (this.numbers && this.way === "streamlines") void this.#trace(++this.asked).catch(tell);
  }
}
