/** The viewer: one texture from near and far, by channel, by level, repeated, with the values under the pointer. */
import { LUMINANCE, encode } from "moth/fields/colour.js";
import { byId, follow } from "moth/base/dom.js";
import { numberText } from "moth/fields/fields.js";

/** @typedef {import("../pictures/levels.js").Levels} Levels */
/** @typedef {import("../pictures/levels.js").Level} Level */

export const CHANNELS = /** @type {const} */ (["colour", "with alpha", "red", "green", "blue", "alpha", "luminance"]);
/** @typedef {typeof CHANNELS[number]} Channel */

const SQUARE = 8;
const MOST_ZOOM = 64;
const AROUND = 24;

/** @param {number} bits the number that a half float's 16 bits stand for */
function half(bits) {
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  const size = exponent ? 2 ** (exponent - 25) * (fraction + 1024) : 2 ** -24 * fraction;
  return bits & 0x8000 ? -size : size;
}

export class Viewer {
  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    this.canvas = canvas;
    this.context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    /** @type {Levels | null} */
    this.levels = null;
    /** What is shown while "before" is held. @type {Levels | null} */
    this.before = null;
    this.isBefore = false;
    /** @type {Channel} */
    this.channel = "colour";
    this.isTiled = false;
    /** The grid of an atlas, drawn with the number of each cell. @type {{ columns: number, rows: number } | null} */
    this.grid = null;
    /** The level that is looked at; -1 for the one that fits the zoom. */
    this.level = -1;
    this.view = { zoom: 1, x: 0, y: 0 };
    this.isFitted = true;
    this.asked = 0;
    /** Pictures of levels, by level and channel. @type {Map<string, HTMLCanvasElement>} */
    this.pictures = new Map();
    canvas.addEventListener("wheel", (event) => this.#wheel(event), { passive: false });
    canvas.addEventListener("pointerdown", (event) => this.#drag(event));
    canvas.addEventListener("pointermove", (event) => this.#read(event));
    canvas.addEventListener("pointerleave", () => (byId("pixel").textContent = ""));
    canvas.addEventListener("keydown", (event) => this.#key(event));
    new ResizeObserver(() => (this.isFitted ? this.fit() : this.draw())).observe(canvas);
  }

  /**
   * @param {Levels | null} levels
   * @param {boolean} [keepView] whether it is the same picture in another state
   */
  show(levels, keepView = false) {
    this.levels = levels;
    this.pictures.clear();
    if (!keepView) this.level = -1;
    if (!keepView || this.isFitted) this.fit();
    else this.draw();
  }

  get #shown() {
    return (this.isBefore && this.before) || this.levels;
  }

  fit() {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    this.isFitted = true;
    const [w, h] = this.levels?.whole ?? [1, 1];
    const times = this.isTiled ? 3 : 1;
    const zoom = Math.min((width - AROUND) / (w * times), (height - AROUND) / (h * times), MOST_ZOOM);
    this.view = { zoom, x: (width - w * zoom) / 2, y: (height - h * zoom) / 2 };
    this.draw();
  }

  /** @param {number} factor @param {number} x @param {number} y */
  zoomBy(factor, x, y) {
    const { view } = this;
    const zoom = Math.min(MOST_ZOOM, Math.max(0.01, view.zoom * factor));
    this.view = { zoom, x: x - ((x - view.x) * zoom) / view.zoom, y: y - ((y - view.y) * zoom) / view.zoom };
    this.isFitted = false;
    this.draw();
  }

  draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.#draw());
  }

  /** The level that is drawn: the chosen one, or the smallest that is not coarser than the screen. */
  get #drawn() {
    const levels = this.#shown;
    if (!levels) return 0;
    const missing = Math.round(Math.log2(levels.whole[0] / levels.levels[0].width));
    const fitting = this.level >= 0 ? this.level : Math.max(0, Math.floor(-Math.log2(this.view.zoom)));
    return Math.min(Math.max(0, fitting - missing), levels.levels.length - 1);
  }

  #draw() {
    const { canvas, context, view } = this;
    const ratio = devicePixelRatio;
    canvas.width = canvas.clientWidth * ratio;
    canvas.height = canvas.clientHeight * ratio;
    const shown = this.#shown;
    byId("zoom").textContent = shown
      ? `${view.zoom >= 0.1 ? Math.round(view.zoom * 100) : (view.zoom * 100).toFixed(1)} %`
      : "";
    if (!shown) return;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    const picture = this.#picture(shown, this.#drawn);
    const [width, height] = [shown.whole[0] * view.zoom, shown.whole[1] * view.zoom];
    // Seen larger than it is, every pixel is a square.
    context.imageSmoothingEnabled = picture.width > width;
    const around = this.isTiled ? [-1, 0, 1] : [0];
    for (const i of around) {
      for (const j of around) {
        const [x, y] = [view.x + i * width, view.y + j * height];
        if (this.channel === "with alpha") this.#checker(x, y, width, height);
        context.drawImage(picture, x, y, width, height);
      }
    }
    if (this.isTiled) {
      context.strokeStyle = "#b27a1e";
      context.lineWidth = 2;
      context.strokeRect(view.x - 0.5, view.y - 0.5, width + 1, height + 1);
    }
    if (this.grid) this.#cells(this.grid, width, height);
  }

  /**
   * The cells of an atlas, each with its number.
   * @param {{ columns: number, rows: number }} grid
   * @param {number} width
   * @param {number} height
   */
  #cells({ columns, rows }, width, height) {
    const { context, view } = this;
    const [w, h] = [width / columns, height / rows];
    context.strokeStyle = "#ebe6de";
    context.lineWidth = 1;
    context.font = '11px "Fira Mono", monospace';
    context.textBaseline = "top";
    for (let index = 0; index < columns * rows; index += 1) {
      const [x, y] = [view.x + (index % columns) * w, view.y + Math.floor(index / columns) * h];
      context.strokeRect(Math.round(x) + 0.5, Math.round(y) + 0.5, Math.round(w), Math.round(h));
      if (Math.min(w, h) < 22) continue;
      const text = String(index + 1);
      context.fillStyle = "#2b2230";
      context.fillRect(x + 1, y + 1, context.measureText(text).width + 6, 15);
      context.fillStyle = "#ebe6de";
      context.fillText(text, x + 4, y + 3);
    }
  }

  /** @param {number} x @param {number} y @param {number} width @param {number} height */
  #checker(x, y, width, height) {
    const { context } = this;
    context.fillStyle = "#8b8885";
    context.fillRect(x, y, width, height);
    context.save();
    context.beginPath();
    context.rect(x, y, width, height);
    context.clip();
    context.fillStyle = "#73706d";
    const [left, top] = [Math.max(0, x), Math.max(0, y)];
    const [right, bottom] = [
      Math.min(this.canvas.clientWidth, x + width),
      Math.min(this.canvas.clientHeight, y + height),
    ];
    for (let i = Math.floor(left / SQUARE); i * SQUARE < right; i += 1)
      for (let j = Math.floor(top / SQUARE); j * SQUARE < bottom; j += 1)
        if ((i + j) % 2) context.fillRect(i * SQUARE, j * SQUARE, SQUARE, SQUARE);
    context.restore();
  }

  /**
   * A level as it is seen by one channel.
   * @param {Levels} shown
   * @param {number} index
   */
  #picture(shown, index) {
    const key = `${shown === this.before} ${index} ${this.channel} ${shown.levels.length}`;
    const known = this.pictures.get(key);
    if (known) return known;
    const level = shown.levels[index];
    const made = document.createElement("canvas");
    [made.width, made.height] = [level.width, level.height];
    const context = /** @type {CanvasRenderingContext2D} */ (made.getContext("2d"));
    const image = context.createImageData(level.width, level.height);
    const toByte = byteOf(shown);
    for (let y = 0; y < level.height; y += 1) {
      let at = (level.height - 1 - y) * level.width * 4;
      let to = y * level.width * 4;
      for (let x = 0; x < level.width; x += 1, at += 4, to += 4) this.#pixel(level.data, at, image.data, to, toByte);
    }
    context.putImageData(image, 0, 0);
    this.pictures.set(key, made);
    return made;
  }

  /**
   * @param {import("../pictures/levels.js").Samples} data
   * @param {number} at
   * @param {Uint8ClampedArray} image
   * @param {number} to
   * @param {(value: number, isAlpha: boolean) => number} toByte
   */
  #pixel(data, at, image, to, toByte) {
    const single = ["red", "green", "blue", "alpha"].indexOf(this.channel);
    image[to + 3] = this.channel === "with alpha" ? toByte(data[at + 3], true) : 255;
    if (single >= 0) image[to] = image[to + 1] = image[to + 2] = toByte(data[at + single], single === 3);
    else {
      const [r, g, b] = [toByte(data[at], false), toByte(data[at + 1], false), toByte(data[at + 2], false)];
      if (this.channel === "luminance")
        image[to] = image[to + 1] = image[to + 2] = LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
      else [image[to], image[to + 1], image[to + 2]] = [r, g, b];
    }
  }

  /** @param {PointerEvent} event */
  #read(event) {
    const shown = this.#shown;
    if (!shown) return;
    const box = this.canvas.getBoundingClientRect();
    const { zoom, x, y } = this.view;
    const u = (event.clientX - box.left - x) / (shown.whole[0] * zoom);
    const v = 1 - (event.clientY - box.top - y) / (shown.whole[1] * zoom);
    const inside = (u >= 0 && u < 1 && v >= 0 && v < 1) || this.isTiled;
    byId("pixel").textContent = inside ? this.textAt(u - Math.floor(u), v - Math.floor(v)) : "";
  }

  /**
   * What stands at a place of the picture, in words.
   * @param {number} u
   * @param {number} v
   */
  textAt(u, v) {
    const shown = this.#shown;
    if (!shown || shown.isGlimpse) return "";
    const level = shown.levels[this.#drawn];
    const [column, row] = [Math.floor(u * level.width), Math.floor(v * level.height)];
    const at = (row * level.width + column) * 4;
    const values = [...level.data.slice(at, at + 4)].map((value) => numberOf(shown, value));
    const names = ["R", "G", "B", "A"].map((name, i) => `${name} ${numberText(Number(values[i].toFixed(4)))}`);
    const [w] = shown.whole;
    const which = level.width === w ? "" : ` · level ${Math.round(Math.log2(w / level.width))}`;
    return `x ${column} y ${row} · ${names.join(" ")}${which}`;
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    event.preventDefault();
    const box = this.canvas.getBoundingClientRect();
    this.zoomBy(Math.exp(-event.deltaY * 0.0015), event.clientX - box.left, event.clientY - box.top);
  }

  /** @param {PointerEvent} event */
  #drag(event) {
    if (event.button > 1) return;
    const { x, y } = this.view;
    follow(event, (dx, dy) => {
      this.view = { ...this.view, x: x + dx, y: y + dy };
      this.isFitted = false;
      this.draw();
    });
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const step = 40;
    /** @type {Record<string, () => void>} */
    const keys = {
      "+": () => this.zoomBy(1.25, width / 2, height / 2),
      "-": () => this.zoomBy(0.8, width / 2, height / 2),
      0: () => this.fit(),
      1: () => this.zoomBy(1 / this.view.zoom, width / 2, height / 2),
      ArrowLeft: () => this.#move(step, 0),
      ArrowRight: () => this.#move(-step, 0),
      ArrowUp: () => this.#move(0, step),
      ArrowDown: () => this.#move(0, -step),
    };
    if (!keys[event.key]) return;
    event.preventDefault();
    keys[event.key]();
  }

  /** @param {number} dx @param {number} dy */
  #move(dx, dy) {
    this.view = { ...this.view, x: this.view.x + dx, y: this.view.y + dy };
    this.isFitted = false;
    this.draw();
  }
}

/**
 * A sample as a number: whole numbers as 0..1.
 * @param {Levels} levels
 * @param {number} value
 */
function numberOf({ depth }, value) {
  return depth === "uint8" ? value / 255 : depth === "float16" ? half(value) : value;
}

/**
 * How a sample shows on the screen, 0..255: light is encoded, all else as it stands.
 * @param {Levels} levels
 * @returns {(value: number, isAlpha: boolean) => number}
 */
function byteOf(levels) {
  if (levels.depth === "uint8") return (value) => value;
  const { isColour } = levels;
  return (value, isAlpha) => {
    const number = numberOf(levels, value);
    return 255 * (isColour && !isAlpha ? encode(Math.max(0, number)) : number);
  };
}
