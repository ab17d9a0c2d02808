/** The variants strip: each as a picture rendered by the stage from the present view. */
import { askText, menu } from "moth/base/dialogs.js";
import { byId, h } from "moth/base/dom.js";
import { describeVariant, takeValues } from "moth/workbench/stage_tools/variant_sheet.js";
import { shaderOf, shaderValues, shape as shapeOf } from "moth/workbench/model/shader_values.js";

const WIDTH = 112;
const HEIGHT = 62;
const CALM = 500;

/** @typedef {import("../model/model.js").GraphModel} GraphModel */

export class Variants {
  /**
   * @param {GraphModel} model
   * @param {import("../../stage/stage.js").Stage | null} stage null where the browser has none
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    this.strip = byId("variants");
    this.timer = 0;
    /** What each picture shows, so that only those that changed are rendered. @type {Map<string, string>} */
    this.rendered = new Map();
    this.isRendering = false;
    model.addEventListener("state", () => this.show());
    stage?.addEventListener("drawn", () => this.#soon());
  }

  show() {
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const entries = [
      { id: "", name: "Defaults", values: {}, base: "", note: "", tracks: {} },
      ...this.model.state.document.variants,
    ];
    const old = new Map([...this.strip.querySelectorAll("canvas")].map((c) => [c.dataset.variant, c]));
    const tiles = entries.map((variant) => {
      const canvas =
        old.get(variant.id) ?? h("canvas", { width: WIDTH * 2, height: HEIGHT * 2, data: { variant: variant.id } });
      const differ = new Set([...Object.keys(variant.values), ...Object.keys(variant.tracks ?? {})]).size;
      const isCurrent = variant.id === this.model.variant;
      return h(
        "li",
        { class: `variant ${isCurrent ? "current" : ""}` },
        h(
          "button",
          {
            type: "button",
            class: "variant-picture",
            "aria-pressed": String(isCurrent),
            "aria-label": `Variant ${variant.name}${differ ? `, ${differ} differ from the defaults` : ""}`,
            data: { focus: `variant.${variant.id}` },
            title: this.#words(variant, differ),
            onclick: () => void this.model.setVariant(variant.id),
            ondblclick: () => variant.id && this.#rename(variant.id, variant.name),
          },
          canvas,
        ),
        differ ? h("span", { class: "variant-differ mono", "aria-hidden": "true" }, String(differ)) : null,
        h(
          "div",
          { class: "variant-caption" },
          h(
            "span",
            { class: "variant-name" },
            variant.name,
            variant.note ? h("span", { class: "variant-note" }, " ·") : null,
            Object.keys(variant.tracks ?? {}).length
              ? h("span", {
                  class: "variant-keyed",
                  role: "img",
                  "aria-label": "has keys of its own",
                  title: "Has keys of its own",
                })
              : null,
          ),
          variant.id
            ? h(
                "button",
                {
                  type: "button",
                  class: "variant-menu",
                  "aria-label": `Actions for variant ${variant.name}`,
                  "aria-haspopup": "menu",
                  data: { focus: `variant.${variant.id}.menu` },
                  onclick: (/** @type {Event} */ e) =>
                    this.#menu(/** @type {HTMLElement} */ (e.currentTarget), variant),
                },
                "⋯",
              )
            : null,
        ),
      );
    });
    const add = h(
      "li",
      { class: "variant" },
      h(
        "button",
        { type: "button", class: "new-variant", data: { focus: "variant.new" }, onclick: () => this.add({}) },
        "New variant",
      ),
    );
    this.strip.replaceChildren(...tiles, add);
    if (focus?.startsWith("variant.")) {
      /** @type {HTMLElement | null} */ (this.strip.querySelector(`[data-focus="${focus}"]`))?.focus();
    }
    this.#soon();
  }

  /**
   * @param {Partial<import("../../types.d.ts").Variant>} of what it begins with
   * @param {string} [stem]
   */
  async add(of, stem = "Variant") {
    const taken = this.model.state.document.variants.map((v) => v.name);
    let name = stem;
    for (let number = 2; taken.includes(name); number += 1) name = `${stem} ${number}`;
    const wanted = await askText("New variant", name, "Add");
    if (!wanted) return;
    const id = this.model.freshId(wanted);
    if (
      await this.model.edit({ op: "add_variant", variant: { values: {}, base: "", ...of, id, name: wanted, note: "" } })
    ) {
      await this.model.setVariant(id);
    }
  }

  /** @param {{ name: string, base?: string, note?: string }} variant @param {number} differ */
  #words({ name, base, note }, differ) {
    const under = this.model.state.document.variants.find(({ id }) => id === base)?.name ?? "the defaults";
    return [differ ? `${name}: ${differ} differ from ${under}` : name, note].filter(Boolean).join("\n");
  }

  /**
   * @param {string} id
   * @param {string} name
   */
  async #rename(id, name) {
    const wanted = await askText("Rename variant", name);
    if (wanted && wanted !== name) void this.model.edit({ op: "rename_variant", variant: id, name: wanted });
  }

  /**
   * @param {HTMLElement} anchor
   * @param {import("../../types.d.ts").Variant} variant
   */
  #menu(anchor, variant) {
    menu(anchor, [
      ["Rename", () => void this.#rename(variant.id, variant.name)],
      ["Base and note …", () => describeVariant(this.model, variant)],
      ["Take values …", () => takeValues(this.model, anchor, variant)],
      [
        "Duplicate",
        () => {
          const { values, base, tracks } = variant;
          void this.add({ values, base, tracks }, `${variant.name} copy`);
        },
      ],
      ["Delete", () => void this.model.edit({ op: "remove_variant", variant: variant.id })],
    ]);
  }

  #soon() {
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => this.#render(), CALM);
  }

  /**
   * One variant's picture. Where its toggles, stops or textures differ, with a shader of its own.
   * @param {string} id
   * @param {string} shape
   * @param {Float32Array} values
   * @param {{ width: number, height: number, isSmooth?: boolean, isClear?: boolean }} size
   */
  async #picture(id, shape, values, { width, height, isSmooth, isClear }) {
    const { model, stage } = this;
    if (!stage) return null;
    if (shape === shapeOf(model, model.variant)) return stage.snapshot(width, height, { values, isSmooth, isClear });
    const shader = await shaderOf(model, id);
    const built = await stage.prepare(shader);
    return (
      built && stage.snapshot(width, height, { values: shaderValues(model, id, shader), built, isSmooth, isClear })
    );
  }

  /**
   * A variant as the stage would show it: RGBA bytes, row 0 at the bottom.
   * @param {string} id
   * @param {number} width
   * @param {number} height
   * @param {boolean} [isSmooth] whether edges are smooth, which takes as long as several pictures
   * @param {boolean} [isClear] whether nothing stands behind
   */
  pictureOf(id, width, height, isSmooth, isClear) {
    const size = { width, height, isSmooth, isClear };
    return this.#picture(id, shapeOf(this.model, id), shaderValues(this.model, id), size);
  }

  /** Renders what changed, one picture at a time, and never while something moves. */
  async #render() {
    const { stage } = this;
    if (!stage?.isReady || stage.isMoving || stage.resolution.isMoving || this.isRendering || this.model.shown) return;
    this.isRendering = true;
    try {
      for (const canvas of this.strip.querySelectorAll("canvas")) {
        const id = canvas.dataset.variant ?? "";
        const shape = shapeOf(this.model, id);
        // A picture with a shader of its own follows every edit.
        const own = shape === shapeOf(this.model, this.model.variant) ? "" : this.model.state.revision;
        const values = shaderValues(this.model, id);
        const scene = [
          stage.lighting.rig,
          stage.backdrop.wanted,
          !!stage.backdrop.loaded,
          stage.mesh.geometry.uuid,
          stage.mesh.matrixWorld.elements,
        ];
        const view = [stage.camera.matrixWorld.elements, stage.lighting.angles, ...scene];
        const look = JSON.stringify([stage.key, shape, [...values], view, stage.time, own]);
        if (this.rendered.get(id) === look) continue;
        const pixels = await this.#picture(id, shape, values, canvas);
        if (!pixels) continue;
        paint(canvas, pixels);
        this.rendered.set(id, look);
        canvas.dataset.painted = "true";
        await new Promise((resolve) => setTimeout(resolve));
        if (stage.resolution.isMoving) return this.#soon();
      }
    } finally {
      this.isRendering = false;
    }
  }
}

/**
 * Puts a picture of the stage on a canvas of its size.
 * @param {HTMLCanvasElement} canvas
 * @param {Uint8Array} pixels RGBA, row 0 at the bottom
 */
export function paint(canvas, pixels) {
  const { width, height } = canvas;
  const image = new ImageData(width, height);
  for (let row = 0; row < height; row += 1) {
    image.data.set(pixels.subarray((height - 1 - row) * width * 4, (height - row) * width * 4), row * width * 4);
  }
  canvas.getContext("2d")?.putImageData(image, 0, 0);
}
