/** A reference picture in a corner of the stage, beside it or over it, kept in this browser for each graph. */
import { byId, h } from "moth/base/dom.js";
import { sources } from "moth/fields/eyedropper.js";
import { notice } from "moth/base/notices.js";
import { keep, kept } from "moth/base/settings.js";

/** Larger pictures are scaled down: a reference is looked at, not read from. */
const MOST = 640;
const PLACES = /** @type {const} */ ({ corner: "In the corner", beside: "Beside", over: "Over the stage" });

export class Reference {
  /** @param {number} graph */
  constructor(graph) {
    this.key = `reference.${graph}`;
    this.image = h("img", { alt: "Reference picture", draggable: "false" });
    this.where = h(
      "select",
      { "aria-label": "Where the reference stands" },
      Object.entries(PLACES).map(([value, words]) => h("option", { value }, words)),
    );
    this.share = h("input", { type: "range", min: 0, max: 1, step: 0.01, "aria-label": "Opacity of the reference" });
    this.where.value = kept(`${this.key}.where`, "corner");
    this.share.value = kept(`${this.key}.share`, "0.5");
    this.where.addEventListener("change", () => {
      keep(`${this.key}.where`, this.where.value);
      this.#stand();
    });
    this.share.addEventListener("input", () => {
      keep(`${this.key}.share`, this.share.value);
      this.#stand();
    });
    this.box = h(
      "figure",
      { id: "reference", hidden: true },
      this.image,
      h(
        "figcaption",
        {},
        this.where,
        this.share,
        h("button", { type: "button", "aria-label": "Take the reference away", onclick: () => this.#put("") }, "×"),
      ),
    );
    byId("stage-area").append(this.box);
    this.file = h("input", { type: "file", accept: "image/*", hidden: true, "aria-label": "Reference picture" });
    this.file.addEventListener("change", () => this.#take(this.file.files?.[0]));
    document.body.append(this.file);
    this.source = { element: this.image, read: async () => read(this.image) };
    this.#show(kept(this.key, ""));
    new ResizeObserver(() => this.#stand()).observe(byId("stage"));
  }

  /** Asks for a picture. */
  choose() {
    this.file.click();
  }

  /** @param {File | undefined} file */
  async #take(file) {
    this.file.value = "";
    if (!file) return;
    try {
      const bitmap = await createImageBitmap(file);
      const scale = Math.min(1, MOST / Math.max(bitmap.width, bitmap.height));
      const canvas = h("canvas", { width: Math.ceil(bitmap.width * scale), height: Math.ceil(bitmap.height * scale) });
      canvas.getContext("2d")?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
      this.#put(canvas.toDataURL("image/jpeg", 0.9));
    } catch {
      notice(`${file.name} is not a picture this browser can read.`, {
        mend: "Choose a PNG, JPEG or WebP.",
        wrong: true,
      });
    }
  }

  /** @param {string} address a data address; empty takes the picture away */
  #put(address) {
    keep(this.key, address);
    this.#show(address);
  }

  /** Where it stands, and how much of it is seen over the stage. */
  #stand() {
    const where = this.where.value;
    const isBeside = where === "beside" && !this.box.hidden;
    this.box.className = where;
    this.share.hidden = where !== "over";
    this.image.style.opacity = where === "over" ? this.share.value : "1";
    byId("stage-area").classList.toggle("halved", isBeside);
    const { clientWidth, clientHeight } = byId("stage");
    const size = where === "corner" ? ["", ""] : [`${clientWidth}px`, `${clientHeight}px`];
    [this.box.style.width, this.box.style.height] = size;
  }

  /** @param {string} address */
  #show(address) {
    this.box.hidden = !address;
    this.#stand();
    if (!address) {
      this.image.removeAttribute("src");
      sources.delete(this.source);
      return;
    }
    this.image.src = address;
    sources.add(this.source);
  }
}

/** @param {HTMLImageElement} image */
async function read(image) {
  await image.decode();
  const canvas = h("canvas", { width: image.naturalWidth, height: image.naturalHeight });
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  context.drawImage(image, 0, 0);
  const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
  return { width: canvas.width, height: canvas.height, data, isUpsideDown: false };
}
