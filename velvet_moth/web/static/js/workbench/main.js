/** The workbench page: brings the model, the graph pane, the stage and the panels together. */
import { postForm } from "moth/base/api.js";
import { askText } from "moth/base/dialogs.js";
import { byId, isHalfTyped, isTyping } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { followNews } from "moth/base/news.js";
import { Stage } from "moth/stage/stage.js";
import { listenForClipboard } from "moth/workbench/gestures/clipboard.js";
import { places } from "moth/workbench/gestures/marking.js";
import { pressKey } from "moth/workbench/gestures/pane_keys.js";
import { showCost } from "moth/workbench/panels/cost.js";
import { DecalTools } from "moth/workbench/stage_tools/throwing/decal_tools.js";
import { showDock } from "moth/workbench/graph/cards/dock.js";
import { Comparison } from "moth/workbench/panels/comparison.js";
import { EmitterPanel } from "moth/workbench/stage_tools/emitter_panel.js";
import { Finder } from "moth/workbench/panels/finder.js";
import { HistoryPanel } from "moth/workbench/panels/history_panel.js";
import { Overview } from "moth/workbench/panels/overview.js";
import { listenForGestures } from "moth/workbench/gestures/gestures.js";
import { GraphPane } from "moth/workbench/graph/graph_pane.js";
import { showHints } from "moth/workbench/panels/hints.js";
import { showKeys } from "moth/workbench/gestures/keys_overlay.js";
import { GraphModel } from "moth/workbench/model/model.js";
import { outermost } from "moth/workbench/shared/motif_place.js";
import { costText, eye } from "moth/workbench/graph/slips/analysis_part.js";
import { renameEverywhere } from "moth/workbench/panels/parameter_sheet.js";
import { Parameters } from "moth/workbench/panels/parameters.js";
import { Painting } from "moth/workbench/stage_tools/painting.js";
import { Pins } from "moth/workbench/stage_tools/pins.js";
import { Problems } from "moth/workbench/panels/problems.js";
import { Reference } from "moth/workbench/stage_tools/reference.js";
import { stageMenu } from "moth/workbench/stage_tools/stage_menu.js";
import { sew, toggleStageAlone } from "moth/workbench/shared/seams.js";
import { Resting } from "moth/workbench/stage_tools/resting.js";
import { StagePanel } from "moth/workbench/stage_tools/stage_panel.js";
import { TextureDrawer, addTexture } from "moth/workbench/panels/texture_drawer.js";
import { focusByKey } from "moth/workbench/stage_tools/views.js";
import { TracksPanel } from "moth/workbench/timeline/tracks_panel.js";
import { Variants } from "moth/workbench/stage_tools/variants.js";
import { Wiring } from "moth/workbench/gestures/wiring.js";

const settings = JSON.parse(byId("settings").textContent ?? "{}");
const model = new GraphModel(Number(document.body.dataset.graph), settings);
const stage = makeStage();
const pane = new GraphPane(model);
/** What the stage shows: this graph, or the one in which a motif is edited. */
const staged = outermost ? new GraphModel(Number(outermost), settings) : model;
const panels = {
  finder: new Finder(pane),
  overview: new Overview(pane),
  history: new HistoryPanel(pane, new Comparison(pane)),
  textures: new TextureDrawer(pane),
};
listenForGestures(pane, panels);
sew();
const wiring = new Wiring(model, pane);
pane.onWire = () => wiring.chooseTarget();
new Problems(model, pane);
new Parameters(pane);
const variants = new Variants(model, stage);
model.keys.isPlayed = staged === model;
const tracks = new TracksPanel(staged, stage);
const reference = new Reference(Number(document.body.dataset.graph));
/** @type {DecalTools | null} */
let decals = null;
const resting = stage && staged === model ? new Resting(model, stage) : null;
if (stage) {
  const panel = new StagePanel(model, staged, stage, pane);
  const painting = staged === model ? new Painting(model, stage, settings.brush_steps, () => panel.restore()) : null;
  stageMenu(model, stage, reference, variants, painting, new EmitterPanel(model));
  if (staged === model) decals = new DecalTools(model, stage);
}

/** The graph can be edited without a stage; what is missing is said. */
function makeStage() {
  try {
    return new Stage(byId("stage"), settings);
  } catch {
    notice("This browser gives no WebGL2, so the stage stays empty.", {
      mend: "Switch on hardware or software rendering in its settings, then reload. The graph can be edited meanwhile.",
      wrong: true,
      stay: true,
    });
    return null;
  }
}

function showHeader() {
  if (!model.state) return;
  const { document: graph, undo, redo, changed, cost } = model.state;
  byId("graph-title").textContent = graph.title;
  document.title = `${graph.title} · Velvet Moth`;
  const when = new Date(changed).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const elsewhere = model.elsewhere ? ` · elsewhere: ${model.elsewhere}` : "";
  byId("saved").title = model.elsewhere;
  byId("saved").textContent = model.unsaved ? "saving…" : `saved ${when}${elsewhere}`;
  for (const [id, words, name] of [
    ["undo", undo, "Undo"],
    ["redo", redo, "Redo"],
  ]) {
    byId(id).disabled = !words;
    byId(id).title = words ? `${name}: ${words}` : `Nothing to ${name.toLowerCase()}`;
  }
  byId("cost").textContent = costText(cost);
  byId("empty-hint").hidden = model.nodes.size > 1;
}

for (const event of ["state", "idle"]) model.addEventListener(event, showHeader);
model.addEventListener("state", () => showDock(model));
model.addEventListener("pinned", () => {
  model.touched = null;
  showDock(model);
});
byId("undo").addEventListener("click", () => model.undo());
byId("redo").addEventListener("click", () => model.redo());
byId("add-node").addEventListener("click", () => pane.add());
byId("help").addEventListener("click", showKeys);
byId("cost").addEventListener("click", () => showCost(model, byId("form").value).catch(tell));
if (stage) {
  eye.query = () => stage.view;
  if (staged === model) focusByKey(stage, new Pins(model, pane, stage));
}
byId("fit").addEventListener("click", () => pane.fit());
byId("finder-open").addEventListener("click", () => panels.finder.open());
byId("places").addEventListener("click", () => places(pane));
byId("overview-open").addEventListener("click", () => panels.overview.toggle());
byId("compact").addEventListener("click", () => pane.toggleCompact());
byId("history-open").addEventListener("click", () => panels.history.toggle());
byId("textures-open").addEventListener("click", () => panels.textures.toggle());
byId("swatch").value = model.swatch;
byId("swatch").addEventListener("change", () => void model.setSwatch(byId("swatch").value));
byId("rename-everywhere").addEventListener("click", () => renameEverywhere(model));
listenForClipboard(pane);
byId("graph-title").addEventListener("click", async () => {
  const title = await askText("Rename graph", model.state.document.title);
  if (title && title !== model.state.document.title) void model.edit({ op: "set_title", value: title });
});

document.addEventListener("keydown", (event) => {
  const command = event.ctrlKey || event.metaKey;
  const key = event.key.toLowerCase();
  if (command && key === "z" && !isHalfTyped(event)) void (event.shiftKey ? model.redo() : model.undo());
  else if (command && key === "y" && !isHalfTyped(event)) void model.redo();
  else if (isTyping(event) || command || event.altKey) return;
  else if (event.key === "?") showKeys();
  else if (key === "p") byId("play").click();
  else if (key === "v" && event.target === byId("stage")) toggleStageAlone();
  else if (event.key === " " && event.target === byId("stage")) pane.add();
  // With the keyboard nowhere, the graph has it.
  else if (event.target === document.body) return pressKey(pane, panels, event);
  else return;
  event.preventDefault();
});

// Dropped files: a graph opens, a picture becomes a texture.
addEventListener("dragover", (event) => event.preventDefault());
addEventListener("drop", async (event) => {
  event.preventDefault();
  const [file] = event.dataTransfer?.files ?? [];
  if (!file) return;
  try {
    if (file.name.endsWith(".json")) {
      location.assign(`/graphs/${(await postForm("/api/graphs/import", { file })).id}`);
    } else {
      const { texture } = await postForm("/api/textures", { file });
      addTexture(pane, texture, event);
    }
  } catch (error) {
    tell(error);
  }
});

addEventListener("beforeunload", (event) => {
  if (model.unsaved) event.preventDefault();
});
addEventListener("pageshow", (event) => {
  if (event.persisted) location.reload();
});

/** @param {(model: GraphModel) => void} act */
const everyModel = (act) => new Set([model, staged]).forEach(act);
const load = () => everyModel((one) => void one.load());
load();
// Who comes from a line of an export sees the card that it is of.
const asked = location.hash.slice(1);
const arrive = () => {
  model.removeEventListener("state", arrive);
  if (model.nodes.has(asked)) setTimeout(() => pane.focus(asked));
};
if (asked) model.addEventListener("state", arrive);
followNews((news) => {
  everyModel((one) => one.catchUp(news));
  if (news.texture) panels.textures.refresh();
}, load);
showHints(pane.pane);
// For tests and the curious: the page's own objects.
Object.assign(window, { moth: { model, stage, pane, panels, resting, tracks, decals } });
