/** The room of meshes: the list, what one looks like, and what is known of it. */
import { getJson, postFiles, postJson } from "moth/base/api.js";
import { askText } from "moth/base/dialogs.js";
import { aboutHead, inOrder, newest, takeDropped } from "moth/base/rooms.js";
import { byId, h, isTyping } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";
import { arrived, bringIn, together } from "moth/meshes_room/bringing.js";
import { factsOf } from "moth/meshes_room/facts.js";
import { Layout } from "moth/meshes_room/layout.js";
import { saveAs } from "moth/meshes_room/saving.js";
import { flowToTexture, toTexture } from "moth/meshes_room/to_texture.js";
import { Distance } from "moth/meshes_room/distance.js";
import { Painting } from "moth/meshes_room/painting.js";
import { Looking, lookAt } from "moth/meshes_room/looking.js";
import { openSteps, stepsIn } from "moth/meshes_room/steps.js";
import { viewAt } from "moth/stage/eye.js";
import { Stage } from "moth/stage/stage.js";

/** @typedef {import("../types.d.ts").MeshInfo} MeshInfo */
/** @typedef {import("../types.d.ts").MeshFacts} MeshFacts */

const settings = JSON.parse(byId("settings").textContent ?? "{}");
const stage = new Stage(byId("stage"), settings);
const layout = new Layout(byId("layout"));
/** @type {MeshInfo[]} */
let meshes = [];
/** What is looked at. @type {MeshFacts | null} */
let facts = null;
/** The textures of the project, for steps that read one. @type {import("../types.d.ts").TextureInfo[]} */
let textures = [];
const about = h("div", { id: "about" });
const making = h("section", { id: "maker", "aria-label": "Steps on the mesh" });
const tabs = h("div", { id: "facts-tabs", role: "group", "aria-label": "What is shown of the mesh", hidden: true });
byId("facts").append(tabs, making, about);
const far = h("section", { id: "distance", "aria-label": "Levels of detail" });
byId("facts").append(far);
/** What is shown of the mesh: what is known of it, its steps, or its levels of detail. */
let tab = "about";
const steps = stepsIn(making, {
  stack: settings.stack,
  places: settings.places,
  textures: () => textures,
  parts: () => facts?.parts.map(({ name }) => name) ?? [],
  mesh: () => facts?.mesh.id ?? "",
  strokes: () => painting.panel.place,
  toTexture: (step) => facts && flowToTexture(facts, settings, step),
});
const looking = new Looking(stage, layout, steps, settings.looks, () => facts);
const painting = new Painting(
  stage,
  () => steps,
  () => facts?.mesh,
  looking,
);
byId("mesh-views").append(looking.flow.bar);
/** Looks at it another way. @param {string} way */
const look = (way) => looking.look(way);
/** Counts what was asked to be shown: an answer that comes after something newer was asked for is dropped. */
let asked = 0;

const distance = new Distance(far, stage, steps, {
  facts: () => facts,
  lossOf: (level, channel) => void looking.showLoss(level, channel).catch(tell),
  toTexture: (channel) => facts && toTexture(facts, settings, [channel]),
});

/** @param {string} [now] */
function showTab(now = tab) {
  tab = now;
  tabs.hidden = !facts;
  about.hidden = !!facts && tab !== "about";
  making.hidden = !facts || tab !== "steps";
  far.hidden = !facts || tab !== "distance";
  const count = steps.steps.length;
  const levels = steps.stack?.levels.length ?? 0;
  const entries = [
    ["about", "About it"],
    ["steps", count ? `Steps (${count})` : "Steps"],
    ["distance", levels ? `Distance (${levels})` : "Distance"],
  ];
  const button = (/** @type {string} */ key, /** @type {string} */ words) =>
    h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(key === tab),
        data: { focus: `tab ${key}` },
        onclick: () => {
          showTab(key);
          /** @type {HTMLElement | null} */ (tabs.querySelector(`[data-focus="tab ${key}"]`))?.focus();
          // What a tab is about is what is looked at.
          void look(key === "steps" && steps.chosen ? "step" : looking.way === "step" ? "lit" : looking.way).catch(
            tell,
          );
        },
      },
      words,
    );
  tabs.replaceChildren(...entries.map(([key, words]) => button(key, words)));
  if (tab === "distance") distance.draw();
}

const load = newest(
  () => Promise.all([getJson("/api/meshes"), getJson("/api/textures")]),
  (found) => {
    [{ meshes }, { textures }] = found;
    drawList();
    byId("nothing").hidden = meshes.length > 0;
  },
);

function drawList() {
  /** @type {string[]} */
  const words = byId("filter").value.toLowerCase().split(/\s+/);
  const found = meshes.filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)));
  const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.mesh;
  byId("tiles").replaceChildren(...found.map(tileOf));
  if (!found.length && meshes.length) byId("tiles").append(h("p", { class: "quiet" }, "No mesh has that name."));
  if (focus) byId("tiles").querySelector(`[data-mesh="${focus}"]`)?.focus();
}

/** @param {MeshInfo} mesh */
const tileOf = ({ id, name, drawn, triangles }) =>
  h(
    "button",
    {
      class: "texture-tile",
      type: "button",
      data: { mesh: id },
      "aria-pressed": String(id === facts?.mesh.id),
      onclick: () => choose(id),
    },
    h("img", { src: `/api/meshes/${id}/picture/${drawn}.png`, alt: "", draggable: "false", loading: "lazy" }),
    h("span", {}, name),
    h("span", { class: "quiet mono" }, `${triangles.toLocaleString("en")} triangles`),
  );

/** @param {string} id */
function choose(id) {
  history.pushState({}, "", id ? `/meshes?m=${id}` : "/meshes");
  show(id).catch(tell);
}

const showAddressed = () => show(new URLSearchParams(location.search).get("m") ?? meshes[0]?.id ?? "");

/** @param {string} id */
async function show(id) {
  const mine = ++asked;
  const next = meshes.find((mesh) => mesh.id === id);
  if (!next) {
    facts = null;
    stage.mesh.visible = false;
    stage.invalidate();
    steps.close();
    about.replaceChildren(h("p", { class: "quiet" }, "Choose a mesh, or bring one in."));
    showTab();
    return drawList();
  }
  const isOther = facts?.mesh.id !== id;
  const [told, open] = await Promise.all([getJson(`/api/meshes/${id}`), isOther ? openSteps(steps, id) : null]);
  if (asked !== mine) return;
  facts = told;
  if (isOther && looking.way === "step") looking.way = "lit";
  if (looking.way !== "step") await stage.setForm("mesh", next);
  if (asked !== mine) return;
  open?.();
  showTab();
  byId("at-vertex").textContent = "Press on the mesh to read a vertex.";
  drawList();
  drawFacts();
  await look(looking.way);
}

steps.addEventListener(
  "seen",
  () =>
    void looking
      .showStep()
      .then(() => painting.strokes.seeAgain())
      .catch(tell),
);
steps.addEventListener("changed", () => {
  showTab();
  void painting.follow();
  if (tab === "steps" && steps.chosen && looking.way !== "step") void look("step").catch(tell);
  else if (looking.way === "step" && !steps.chosen) void look("lit").catch(tell);
});
steps.addEventListener("made", () => {
  notice(`Baked ${facts?.mesh.name}. What stands on it follows.`);
  void refresh().catch(tell);
});

function drawFacts() {
  if (!facts) return;
  const { mesh } = facts;
  const acts = {
    read: (/** @type {MeshFacts["reading"]} */ reading) =>
      // In another unit it may be a hundred times as large.
      void read(() => postJson(`/api/meshes/${mesh.id}/reading`, reading)).then(() => stage.resetView()),
    look: (/** @type {string} */ channel) => void look(lookAt(channel)).catch(tell),
    mend: (/** @type {MeshFacts["verdicts"][number]} */ verdict) => void mend(verdict),
  };
  about.replaceChildren(
    aboutHead(mesh.name, rename, actions),
    h("p", { class: "quiet mono" }, `${mesh.format} · ${facts.files.join(", ")}`),
    ...factsOf(facts, settings, acts),
  );
}

/** Mends what was found wrong by a step, and bakes. @param {MeshFacts["verdicts"][number]} verdict */
async function mend({ key, channel }) {
  if (await steps.model?.ask("mend", { verdict: key, channel })) await steps.make();
}

const changed = inOrder(
  async (/** @type {{ mesh: MeshInfo }} */ { mesh }) => {
    byId("progress").textContent = "";
    await load();
    await show(mesh.id);
  },
  (error) => {
    byId("progress").textContent = "";
    tell(error);
    drawFacts();
  },
);

/** What takes a while says so. @param {() => Promise<Parameters<typeof arrived>[0]>} work */
function read(work) {
  byId("progress").textContent = "reading …";
  return changed(async () => ({ mesh: await arrived(await work()) }));
}

async function rename() {
  if (!facts) return;
  const { id, name: before } = facts.mesh;
  const name = await askText("Rename mesh", before);
  if (name && name !== before) await changed(() => postJson(`/api/meshes/${id}/name`, { name }));
}

/** @returns {[string, () => void][]} */
function actions() {
  if (!facts) return [];
  const told = facts;
  const { id } = told.mesh;
  const file = h("input", { type: "file", accept: byId("import-files").accept, multiple: true });
  file.addEventListener("change", () => {
    const [group] = together([...(file.files ?? [])]);
    if (group) void read(() => postFiles(`/api/meshes/${id}/file`, group));
  });
  return [
    ["Rename", rename],
    ["Bring a new version in", () => file.click()],
    ["Save as …", () => saveAs(told, settings)],
    ["Channels to a texture …", () => toTexture(told, settings, Object.keys(told.carried).slice(0, 1))],
    ["Save the file as it came", () => location.assign(`/api/meshes/${id}/file/0`)],
    ["Delete", () => void remove(id)],
  ];
}

/** @param {string} id */
async function remove(id) {
  const name = meshes.find((mesh) => mesh.id === id)?.name;
  try {
    await postJson(`/api/meshes/${id}`, {}, "DELETE");
    const back = () => void changed(() => postJson(`/api/meshes/${id}/restore`));
    notice(`Deleted ${name}. Graphs that stand on it say so.`, { action: "Undo", act: back, stay: true });
    await load();
    choose(meshes[0]?.id ?? "");
  } catch (error) {
    tell(error);
  }
}

/** @param {FileList | File[]} files */
async function take(files) {
  // What the address names is asked for first: it is no hand that chooses it.
  await loaded.catch(() => {});
  const began = asked;
  const last = await bringIn([...files], load);
  // What a hand chose meanwhile stays.
  if (last && asked === began) choose(last);
}

/** Tells what is at a vertex. @param {MouseEvent} event */
async function readVertex({ offsetX, offsetY }) {
  if (!facts) return;
  const query = new URLSearchParams(viewAt(stage, offsetX, offsetY));
  const found = await getJson(`/api/meshes/${facts.mesh.id}/vertex?${query}`);
  const list = (/** @type {number[]} */ values) => values.map((value) => value.toFixed(3)).join(" ");
  byId("at-vertex").textContent = found
    ? [
        `vertex ${found.index}${found.part ? ` of ${found.part}` : ""}`,
        `at ${list(found.place)} m`,
        facts.has_uvs ? `UV ${list(found.uv)}` : "no UVs",
        `data ${list(found.colours)}`,
      ].join(" · ")
    : "Nothing is there.";
}

let pressed = { x: 0, y: 0 };
byId("stage").addEventListener(
  "pointerdown",
  (/** @type {PointerEvent} */ { clientX: x, clientY: y }) => (pressed = { x, y }),
);
byId("stage").addEventListener("click", (/** @type {MouseEvent} */ event) => {
  // A drag turns it.
  if (!painting.brush.isOn && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4)
    readVertex(event).catch(tell);
});
byId("filter").addEventListener("input", drawList);
byId("fit").addEventListener("click", () => stage.resetView());
byId("channel").addEventListener("change", () => void look(byId("channel").value || "lit").catch(tell));
byId("rig").addEventListener("change", () => stage.lighting.set(byId("rig").value).catch(tell));
byId("outlines").addEventListener("click", () => {
  const isOn = byId("outlines").ariaPressed !== "true";
  byId("outlines").ariaPressed = String(isOn);
  stage.setWireframe(isOn);
  if (looking.way === "layout") layout.show(stage.mesh.geometry, isOn);
});
byId("import").addEventListener("click", () => byId("import-files").click());
byId("import-files").addEventListener("change", () => {
  void take(byId("import-files").files).then(() => (byId("import-files").value = ""));
});
takeDropped((files) => void take(files));
addEventListener("popstate", () => void showAddressed().catch(tell));
addEventListener("keydown", (event) => {
  if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "w") byId("outlines").click();
  else if (event.key === "0") byId("fit").click();
  else return;
  event.preventDefault();
});

const refresh = async () => {
  const before = facts?.mesh;
  await load();
  if (facts?.mesh !== before) return;
  const now = meshes.find((mesh) => mesh.id === before?.id);
  if (now && before && now.revision !== before.revision) await show(now.id);
};
followNews(
  (news) => {
    steps.model?.catchUp(news.mesh_stack, news);
    if (news.mesh) refresh().catch(tell);
  },
  () => void refresh().catch(tell),
);
stage.addEventListener("failed", (event) => {
  notice(`The GPU refused the shader: ${/** @type {CustomEvent} */ (event).detail.log.slice(0, 200)}`);
});
const loaded = load();
loaded.then(showAddressed).catch(tell);

addEventListener("beforeunload", (event) => {
  if (steps.model?.unsaved) event.preventDefault();
});

Object.assign(globalThis, { room: { stage, layout, steps, painting } });
