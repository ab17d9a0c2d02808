/** Views of the stage: first, standing, saved ones; what it turns about; the turntable. */
import { askText, menu } from "moth/base/dialogs.js";
import { Exposing } from "moth/workbench/stage_tools/exposing.js";
import { notice, tell } from "moth/base/notices.js";
import { textureChoice } from "moth/workbench/shared/texture_choice.js";
import { backdropSheet } from "moth/workbench/stage_tools/backdrop_sheet.js";

/** @typedef {import("../../types.d.ts").SavedView} SavedView */

const FIELDS = [18, 30, 45, 60];

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {import("../../stage/stage.js").Stage} stage
 */
export function viewsMenu(model, stage) {
  const exposing = new Exposing(model, stage);
  const environment = () => model.state.document.environment;
  const putAround = () =>
    textureChoice.ask({
      title: "a picture of all directions",
      key: "",
      chosen: environment(),
      canBeNone: false,
      choose: (texture) => void model.edit({ op: "set_environment", value: texture }),
    });
  /** @param {HTMLElement} anchor */
  const fields = (anchor) =>
    menu(
      anchor,
      FIELDS.map((field) => [
        `${field}°${field === Math.round(stage.camera.fov) ? ", now" : ""}`,
        () => stage.look({ ...cameraOf(stage), field }),
      ]),
    );
  const save = async () => {
    const { views } = model.state.document;
    const name = await askText("Save this view as", `View ${views.length + 1}`, "Save");
    if (!name) return;
    const made = {
      name,
      camera: cameraOf(stage),
      light_turn: stage.lighting.angles.turn,
      light_tilt: stage.lighting.angles.tilt,
    };
    void model.edit({ op: "set_views", value: [...views, made] });
  };
  /** @param {HTMLElement} anchor */
  const remove = (anchor) =>
    menu(
      anchor,
      model.state.document.views.map(({ name }) => [
        name,
        () =>
          void model.edit({ op: "set_views", value: model.state.document.views.filter((view) => view.name !== name) }),
      ]),
    );
  return (/** @type {HTMLElement} */ anchor) => {
    const { views } = model.state.document;
    const standing = model.settings.standing[stage.backdrop.key];
    /** @type {[string, () => void, string?][]} */
    const entries = [["First view", () => stage.resetView()]];
    if (standing) entries.push(["Standing in the scene", () => stage.look(standing)]);
    for (const view of views) entries.push([view.name, () => show(stage, view)]);
    entries.push(["Save this view …", () => void save()]);
    if (views.length) entries.push(["Remove a view …", () => remove(anchor)]);
    entries.push(["Field of view …", () => fields(anchor)]);
    for (const [what, words] of /** @type {["eye" | "light", string][]} */ ([
      ["eye", "the form"],
      ["light", "the light"],
    ]))
      entries.push([
        stage.turntable === what ? `Stop turning ${words}` : `Turn ${words} round`,
        () => stage.setTurntable(stage.turntable === what ? "" : what),
      ]);
    entries.push([exposing.isOn ? "Expose as the light says" : "Expose by what is seen", () => exposing.toggle()]);
    if (model.state.document.backdrop)
      entries.push(["Surfaces of the backdrop …", () => void backdropSheet(model).catch(tell)]);
    entries.push(["Put a picture around it …", putAround]);
    if (environment())
      entries.push(["Take the picture around it away", () => void model.edit({ op: "set_environment", value: "" })]);
    menu(anchor, entries);
  };
}

/** @param {import("../../stage/stage.js").Stage} stage @returns {import("../../types.d.ts").Camera} */
function cameraOf(stage) {
  const { turn, tilt, distance, field, target_x, target_y, target_z } = stage.view;
  const [x, y, z] = [target_x, target_y, target_z].map(Number);
  return {
    turn: Number(turn),
    tilt: Number(tilt),
    distance: Number(distance),
    field: Number(field),
    target: [x, y, z],
  };
}

/** @param {import("../../stage/stage.js").Stage} stage @param {SavedView} view */
function show(stage, { camera, light_turn, light_tilt }) {
  stage.look(camera);
  stage.lighting.turn(light_turn - stage.lighting.angles.turn, light_tilt - stage.lighting.angles.tilt);
}

/**
 * F on the stage: it turns about the pin that is looked at.
 * @param {import("../../stage/stage.js").Stage} stage
 * @param {import("./pins.js").Pins} pins
 */
export function focusByKey(stage, pins) {
  stage.canvas.addEventListener("keydown", (event) => {
    if (event.key.toLowerCase() !== "f" || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    const place = pins.pins[pins.active]?.found.place;
    if (place) return stage.focus(place);
    notice("F turns the stage about the pin, and there is none.", { mend: "Press on the form first." });
  });
}
