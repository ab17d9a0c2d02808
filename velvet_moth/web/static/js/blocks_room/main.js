/** The room of block models: the list, the model that is drawn, its palette. */
import { getJson, postJson } from "moth/base/api.js";
import { askText } from "moth/base/dialogs.js";
import { byId, h, isTyping } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";
import { aboutHead, newest, takeDropped } from "moth/base/rooms.js";
import { aboutModel } from "moth/blocks_room/about_model.js";
import { Aids } from "moth/blocks_room/aids.js";
import { BlockModel } from "moth/blocks_room/block_model.js";
import { Drawing } from "moth/blocks_room/drawing.js";
import { newOfFile, newOfMesh } from "moth/blocks_room/bringing.js";
import { HistoryPanel } from "moth/blocks_room/history_panel.js";
import { PalettePanel } from "moth/blocks_room/palette_panel.js";
import { PartPanel } from "moth/blocks_room/part_panel.js";
import { Tools } from "moth/blocks_room/tools.js";
import { Chunks } from "moth/stage/chunks.js";
import { Stage } from "moth/stage/stage.js";

/** @typedef {import("../types.d.ts").BlockModelInfo} BlockModelInfo */
/** @typedef {import("../types.d.ts").BlockModelState} BlockModelState */

/** @type {import("../types.d.ts").BlockSettings} */
const settings = JSON.parse(byId("settings").textContent ?? "{}");
const stage = new Stage(byId("stage"), settings);
const chunks = new Chunks(stage);
const aids = new Aids(stage, settings.origin);
const drawing = new Drawing(stage, chunks, aids, settings);
/** @type {BlockModelInfo[]} */
let models = [];
/** @type {import("../types.d.ts").PaletteInfo[]} */
let palettes = [];
/** The model that is drawn. @type {BlockModel | null} */
let model = null;
/** Milliseconds without an edit. */
const CALM = 1500;
/** The palette whose textures the stage shows. */
let shaded = "";

const about = h("div", { id: "about" });
const part = h("section", { class: "part-panel", "aria-label": "Chosen part", hidden: true });
const entries = h("section", { class: "palette", "aria-label": "Palette" });
const past = new HistoryPanel(() => model);
byId("facts").append(about, past.panel, part, entries);

const palette = new PalettePanel(entries, {
  choose: (entry) => {
    drawing.set({ entry });
    if (drawing.way !== "put" && drawing.way !== "recolour") drawing.set({ way: "put" });
  },
  exchange: (one, other) => void model?.ask("exchange", { one, other }),
  set: (number, entry) => void model?.edit({ op: "set_entry", number, entry }),
});
const partPanel = new PartPanel(part, drawing, (move) => model?.ask("move", { move }) ?? Promise.resolve(false));
const tools = new Tools(drawing, settings, {
  layers: (layers) => void model?.show(layers).catch(tell),
  middle: () => {
    const box = model?.state?.box;
    const middle = settings.origin.map((from, axis) => (box ? (box[0][axis] + box[1][axis]) / 2 : from));
    return /** @type {[number, number, number]} */ (middle);
  },
});

drawing.addEventListener("draw", (event) => {
  void model?.ask("draw", { strokes: /** @type {CustomEvent} */ (event).detail });
});
drawing.addEventListener("pick", (event) => void pick(/** @type {CustomEvent} */ (event).detail));
drawing.addEventListener("changed", () => model?.state && palette.show(model.state, drawing.entry));
drawing.addEventListener("aim", drawLine);

/** @param {number[]} cell */
async function pick([x, y, z]) {
  if (!model) return;
  try {
    const { entry } = await getJson(`${model.url}/at?${new URLSearchParams({ x: `${x}`, y: `${y}`, z: `${z}` })}`);
    if (entry) drawing.set({ entry, way: "put" });
  } catch (error) {
    tell(error);
  }
}

/** Where the hand is, and how much there is. */
function drawLine() {
  const { ends } = drawing;
  const state = model?.state;
  const list = (/** @type {number[]} */ cell) => cell.map((at, axis) => at - settings.origin[axis]).join(" ");
  const size = ends ? ends[0].map((from, axis) => Math.abs(ends[1][axis] - from) + 1) : [];
  byId("at-block").textContent = !ends
    ? state?.count === 0
      ? "Press on the ground to put the first block."
      : "Press on a block to draw, beside it to turn the eye."
    : `at ${list(ends[0])}${size.some((length) => length > 1) ? ` · ${size.join(" × ")}` : ""}`;
  if (!state) return;
  const metres = state.box?.[0].map((low, axis) => ((state.box?.[1][axis] ?? 0) - low) * state.size);
  byId("counts").textContent = metres
    ? `${state.count === 1 ? "1 block" : `${state.count.toLocaleString("en")} blocks`} · ${metres.map((one) => one.toFixed(2)).join(" × ")} m`
    : "empty";
}

const load = newest(
  () => Promise.all([getJson("/api/blocks"), getJson("/api/blocks/palettes")]),
  (found) => {
    [{ models }, { palettes }] = found;
    drawList();
    byId("nothing").hidden = models.length > 0;
  },
);

function drawList() {
  /** @type {string[]} */
  const words = byId("filter").value.toLowerCase().split(/\s+/);
  const found = models.filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)));
  const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.model;
  byId("tiles").replaceChildren(...found.map(tileOf));
  if (!found.length && models.length) byId("tiles").append(h("p", { class: "quiet" }, "No model has that name."));
  if (focus) byId("tiles").querySelector(`[data-model="${focus}"]`)?.focus();
}

/** @param {BlockModelInfo} one */
const tileOf = ({ id, name, count, picture }) =>
  h(
    "button",
    {
      class: "texture-tile",
      type: "button",
      data: { model: id },
      "aria-pressed": String(id === model?.state?.id),
      onclick: () => choose(id),
    },
    h("img", { src: `/api/blocks/${id}/picture/${picture}.png`, alt: "", draggable: "false", loading: "lazy" }),
    h("span", {}, name),
    h("span", { class: "quiet mono" }, count === 1 ? "1 block" : `${count.toLocaleString("en")} blocks`),
  );

/** @param {number | ""} id */
function choose(id) {
  history.pushState({}, "", id ? `/blocks?b=${id}` : "/blocks");
  show(id).catch(tell);
}

const showAddressed = () => show(Number(new URLSearchParams(location.search).get("b")) || models[0]?.id || "");

/** @param {number | ""} id */
async function show(id) {
  if (id && model?.url === `/api/blocks/${id}`) return;
  drawing.choose(null);
  drawing.settle();
  chunks.take([], true);
  model = null;
  if (!models.some((one) => one.id === id)) {
    about.replaceChildren(
      h(
        "p",
        { class: "quiet" },
        models.length ? "This model is gone. Choose another one." : "Press New model to begin one.",
      ),
    );
    entries.hidden = true;
    return drawList();
  }
  const opened = (model = new BlockModel(Number(id)));
  entries.hidden = false;
  let isFirst = true;
  opened.addEventListener("surface", (event) => {
    if (model !== opened) return;
    const { chunks: changed, isWhole } = /** @type {CustomEvent} */ (event).detail;
    chunks.take(changed, isWhole);
    drawing.repropose();
  });
  opened.addEventListener("idle", () => model === opened && drawing.settle());
  opened.addEventListener("state", () => {
    if (model !== opened || !opened.state) return;
    const { state } = opened;
    stage.brought = /** @type {any} */ ({ id: `blocks ${state.id}`, drawn: "", view: state.view, levels: [] });
    if (isFirst) stage.resetView();
    isFirst = false;
    aids.setGround(state.box, state.size, settings.margin, settings.side);
    palette.show(state, drawing.entry);
    about.replaceChildren(...aboutModel(opened, palettes, () => aboutHead(state.name, rename, actions)));
    drawLine();
    byId("undo").disabled = !state.undo;
    byId("redo").disabled = !state.redo;
    byId("undo").title = state.undo ? `Undo: ${state.undo} (Ctrl Z)` : "Nothing to undo";
    byId("redo").title = state.redo ? `Redo: ${state.redo} (Ctrl Shift Z)` : "Nothing to redo";
    void past.refresh();
    void shade(opened).catch(tell);
  });
  if (tools.layers.axis) tools.setLayers({ axis: "", first: 0, last: 0 });
  else await opened.load();
  drawList();
}

/** Shows the model in its palette as that is now. @param {BlockModel} opened */
async function shade({ url, state }) {
  const key = `${state.id} ${state.palette} ${state.stamp}`;
  if (key === shaded) return;
  shaded = key;
  const { shader, values } = await getJson(`${url}/shader`);
  if (shaded === key) await stage.setShader(shader, new Float32Array(values));
}

async function rename() {
  if (!model?.state) return;
  const before = model.state.name;
  const name = await askText("Rename model", before);
  if (name && name !== before && (await model.edit({ op: "set_block_name", name }))) await load();
}

/** @returns {[string, () => void][]} */
function actions() {
  if (!model?.state) return [];
  const { id } = model.state;
  return [
    ["Rename", rename],
    ["Make a copy", () => void made(postJson(`/api/blocks/${id}/copy`))],
    ...Object.entries(settings.formats).map(
      ([key, name]) =>
        /** @type {[string, () => void]} */ ([`Save as ${name}`, () => location.assign(`/api/blocks/${id}/as/${key}`)]),
    ),
    ["Delete", () => void remove(id)],
  ];
}

/** @param {Promise<BlockModelInfo>} asked */
async function made(asked) {
  try {
    const { id } = await asked;
    await load();
    choose(id);
  } catch (error) {
    tell(error);
  }
}

/** @param {number} id */
async function remove(id) {
  const name = models.find((one) => one.id === id)?.name;
  try {
    await postJson(`/api/blocks/${id}`, {}, "DELETE");
    const back = () => void made(postJson(`/api/blocks/${id}/restore`));
    notice(`Deleted ${name}.`, { action: "Undo", act: back, stay: true });
    await load();
    choose(models[0]?.id ?? "");
  } catch (error) {
    tell(error);
  }
}

byId("filter").addEventListener("input", drawList);
byId("fit").addEventListener("click", () => stage.resetView());
byId("rig").addEventListener("change", () => stage.lighting.set(byId("rig").value).catch(tell));
byId("undo").addEventListener("click", () => void model?.undo());
byId("redo").addEventListener("click", () => void model?.redo());
byId("new-model").addEventListener("click", async () => {
  const name = await askText("New block model", "Blocks", "Begin");
  if (name) void made(postJson("/api/blocks", { name }));
});
byId("of-mesh").addEventListener("click", () => void newOfMesh(settings, (asked) => void made(asked)).catch(tell));
byId("of-file").addEventListener("click", () => byId("block-files").click());
byId("block-files").addEventListener("change", () => {
  take(byId("block-files").files);
  byId("block-files").value = "";
});
takeDropped(take);

/** @param {FileList} files */
function take(files) {
  for (const file of files) newOfFile(file, settings, drawing.entry, (asked) => void made(asked));
}

addEventListener("popstate", () => void showAddressed().catch(tell));
addEventListener("keydown", (event) => {
  if (isTyping(event) || event.altKey) return;
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== "z") return;
    void (event.shiftKey ? model?.redo() : model?.undo());
  } else if (event.key === "0") byId("fit").click();
  else if (event.key.toLowerCase() === "h") past.toggle();
  else if (event.key === "Delete" && drawing.part) partPanel.takeAway();
  else if (!tools.byKey(event.key)) return;
  event.preventDefault();
});

const refresh = async () => {
  await load();
  if (model && !models.some(({ id }) => id === model?.state?.id)) return showAddressed();
  if (model?.state) await model.load();
};
/** Whether a graph that has changed is shown by an entry; a motif may be in any of them. @param {{ graph: number, motif: string }} news */
const isShown = ({ graph, motif }) =>
  !!model?.state?.entries.some((one) => one.graph && (motif || one.graph === String(graph)));

let calm = 0;
/** Draws the list again once the hand rests: a picture of a model takes the server a while. */
function loadSoon() {
  clearTimeout(calm);
  calm = setTimeout(() => void load().catch(tell), CALM);
}

followNews(
  async (news) => {
    const drawn = model;
    // News of one's own edit may come before its answer.
    if (news.blocks && news.blocks === drawn?.state?.id) await drawn.queue;
    // One's own edits are answered already; a texture of the palette may have been made again.
    if (news.blocks && news.blocks === drawn?.state?.id && news.revision <= drawn.state.revision) loadSoon();
    else if (news.blocks || news.texture || news.stack) refresh().catch(tell);
    else if (news.graph) (isShown(news) ? refresh() : palette.refresh()).catch(tell);
  },
  () => void refresh().catch(tell),
);
stage.addEventListener("failed", (event) => {
  notice(`The GPU refused the shader: ${/** @type {CustomEvent} */ (event).detail.log.slice(0, 200)}`);
});
void palette.refresh();
load().then(showAddressed).catch(tell);

addEventListener("beforeunload", (event) => {
  if (model?.unsaved) event.preventDefault();
});

Object.assign(globalThis, { room: { stage, chunks, drawing, tools, model: () => model } });
