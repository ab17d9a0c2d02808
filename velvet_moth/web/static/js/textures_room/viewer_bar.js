/** The bar of the viewer: which channel is seen, which level, repeated or not, the cells of an atlas, what was before. */
import { byId, h } from "moth/base/dom.js";
import { CHANNELS } from "moth/textures_room/viewer.js";

/** @typedef {import("./viewer.js").Channel} Channel */

/**
 * @param {import("./viewer.js").Viewer} viewer
 * @param {() => import("../types.d.ts").AtlasGrid | null | undefined} atlas the grid of what is made, where it is one
 */
export function viewerBar(viewer, atlas) {
  const setChannel = (/** @type {Channel} */ channel) => {
    viewer.channel = channel;
    for (const button of byId("channels-shown").children)
      button.setAttribute("aria-pressed", String(button.dataset.channel === channel));
    viewer.draw();
  };
  const listLevels = (/** @type {number} */ count) =>
    byId("level").replaceChildren(
      h("option", { value: -1 }, "fitting"),
      ...Array.from({ length: count }, (_, i) => h("option", { value: i }, `level ${i}`)),
    );
  const showCells = () => {
    const grid = atlas();
    byId("cells").hidden = !grid;
    viewer.grid = grid && byId("cells").getAttribute("aria-pressed") === "true" ? grid : null;
    viewer.draw();
  };
  byId("channels-shown").append(
    ...CHANNELS.map((channel) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          data: { channel },
          "aria-pressed": String(channel === viewer.channel),
          onclick: () => setChannel(channel),
        },
        channel,
      ),
    ),
  );
  byId("level").addEventListener("change", () => {
    viewer.level = Number(byId("level").value);
    viewer.draw();
  });
  byId("tiled").addEventListener("click", () => {
    viewer.isTiled = !viewer.isTiled;
    byId("tiled").setAttribute("aria-pressed", String(viewer.isTiled));
    if (viewer.isFitted) viewer.fit();
    else viewer.draw();
  });
  byId("fit").addEventListener("click", () => viewer.fit());
  byId("cells").addEventListener("click", () => {
    byId("cells").setAttribute("aria-pressed", String(byId("cells").getAttribute("aria-pressed") !== "true"));
    showCells();
  });
  const setBefore = (/** @type {boolean} */ isBefore) => {
    viewer.isBefore = isBefore;
    viewer.draw();
  };
  for (const [event, isBefore] of /** @type {[string, boolean][]} */ ([
    ["pointerdown", true],
    ["pointerup", false],
    ["pointerleave", false],
    ["keyup", false],
  ]))
    byId("before").addEventListener(event, () => setBefore(isBefore));
  byId("before").addEventListener(
    "keydown",
    (/** @type {KeyboardEvent} */ event) => event.key === " " && setBefore(true),
  );
  return { setChannel, listLevels, showCells };
}
