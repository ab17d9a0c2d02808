/** What else can be done with the stage's picture: save it, compare it, lay a reference beside it. */
import { menu } from "moth/base/dialogs.js";
import { byId } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { showShaderText } from "moth/workbench/stage_tools/shader_text.js";
import { toggleStageAlone } from "moth/workbench/shared/seams.js";
import { SplitView } from "moth/workbench/stage_tools/split_view.js";
import { viewsMenu } from "moth/workbench/stage_tools/views.js";
import { everyRig, litBy } from "moth/workbench/stage_tools/lights.js";
import { filmSheet } from "moth/workbench/stage_tools/film_sheet.js";
import { PictureGrid } from "moth/workbench/stage_tools/picture_grid.js";
import { poseSheet } from "moth/workbench/stage_tools/pose_sheet.js";
import { saveSheet, saveStill } from "moth/workbench/stage_tools/stills.js";

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {import("../../stage/stage.js").Stage} stage
 * @param {import("./reference.js").Reference} reference
 * @param {import("./variants.js").Variants} variants
 * @param {import("./painting.js").Painting | null} painting
 * @param {import("./emitter_panel.js").EmitterPanel} emitter
 */
export function stageMenu(model, stage, reference, variants, painting, emitter) {
  const comparing = new SplitView(model, stage);
  const views = viewsMenu(model, stage);
  const button = byId("stage-more");
  const everyVariant = () => [{ id: "", name: "Defaults" }, ...model.state.document.variants];
  const lit = async (/** @type {string} */ rig, /** @type {number} */ width, /** @type {number} */ height) => {
    const shown = await litBy(model, stage, rig);
    return shown && stage.snapshot(width, height, shown);
  };
  const grids = {
    variants: new PictureGrid(model, stage, {
      id: "variant-grid",
      words: "All variants",
      every: everyVariant,
      current: () => model.variant,
      picture: (id, width, height) => variants.pictureOf(id, width, height),
      choose: (id) => void model.setVariant(id),
    }),
    lights: new PictureGrid(model, stage, {
      id: "light-grid",
      words: "All lights",
      every: everyRig,
      current: () => stage.lighting.rig,
      picture: lit,
      choose: (id) => void model.edit({ op: "set_rig", value: id }),
    }),
  };
  button.addEventListener("click", () => {
    const { title } = model.state.document;
    const picture = (/** @type {string} */ id, /** @type {number} */ width, /** @type {number} */ height) =>
      variants.pictureOf(id, width, height, true);
    const frame = (
      /** @type {string} */ id,
      /** @type {number} */ width,
      /** @type {number} */ height,
      /** @type {boolean} */ isClear,
    ) =>
      id === model.variant
        ? stage.snapshot(width, height, { isSmooth: true, isClear })
        : variants.pictureOf(id, width, height, true, isClear);
    menu(button, [
      ["First view and light", () => stage.resetView()],
      ["Stage alone, or beside the graph (V)", toggleStageAlone],
      ["Views and turning …", () => views(button)],
      ["Size and turn of the form …", () => poseSheet(model, stage, button)],
      ...(model.state.shader.projected
        ? []
        : [
            /** @type {[string, () => void]} */ ([
              emitter.isOn ? "Draw the form once" : "Draw the form many times (emitter)",
              () => void emitter.toggle().catch(tell),
            ]),
          ]),
      ...(painting
        ? [
            /** @type {[string, () => void]} */ ([
              painting.stack ? "Stop painting" : "Paint on the mesh",
              () => void painting.toggle().catch(tell),
            ]),
          ]
        : []),
      ["Compare with …", () => void comparing.ask(button).catch(tell)],
      ["Show all variants", () => grids.variants.toggle()],
      ["Show all lights", () => grids.lights.toggle()],
      [stage.isWireframe ? "Hide wires" : "Show wires", () => stage.setWireframe(!stage.isWireframe)],
      ["Pin a reference picture", () => reference.choose()],
      ["Read the shader …", () => showShaderText(model)],
      ["Save picture …", () => saveStill(stage, title)],
      ["Save a film …", () => void filmSheet(model, stage, stage.stretch, frame).catch(tell)],
      ["Save all variants on a sheet", () => void saveSheet(title, everyVariant(), picture)],
    ]);
  });
}
