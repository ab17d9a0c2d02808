/** The room of textures: the list, what one looks like, what is known of it, and the stack that made it. */
import { getJson, postForm, postJson } from "moth/base/api.js";
import { askText, menu } from "moth/base/dialogs.js";
import { aboutHead, inOrder, newest, takeDropped } from "moth/base/rooms.js";
import { byId, h, isTyping } from "moth/base/dom.js";
import { loadLevels } from "moth/pictures/levels.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";
import { TextureGrid, matching } from "moth/pictures/texture_grid.js";
import { textureDialog } from "moth/pictures/textures.js";
import { replaceBy } from "moth/textures_room/replacing.js";
import { factsOf } from "moth/textures_room/facts.js";
import { FIRST, glimpse, importFiles } from "moth/textures_room/importing.js";
import { Drafts } from "moth/textures_room/drafts.js";
import { makerIn } from "moth/textures_room/maker.js";
import { RecipeModel } from "moth/textures_room/recipe_model.js";
import { StackView } from "moth/stacks/stack_view.js";
import { levelsOf } from "moth/textures_room/previews.js";
import { saveAll, saveAs } from "moth/textures_room/saving.js";
import { CHANNELS, Viewer } from "moth/textures_room/viewer.js";
import { viewerBar } from "moth/textures_room/viewer_bar.js";

/** Sides of a look at a step. */
const MOST_PIXELS = 512;

/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */
/** @typedef {import("../types.d.ts").TextureFacts} TextureFacts */

const settings = JSON.parse(byId("settings").textContent ?? "{}");
const viewer = new Viewer(byId("viewer"));
/** @type {TextureInfo[]} */
let textures = [];
/** The texture that is looked at. @type {TextureInfo | null} */
let chosen = null;
/** @type {TextureFacts | null} */
let facts = null;
/** The id of the texture that is looked at as soon as all of it is here. */
let coming = "";
/** Counts what was asked to be shown: an answer that comes after something newer was asked for is dropped. */
let asked = 0;
/** What was asked for when a file was last seen before it had come: answers to it and to older ones do not cover that. */
let glimpsed = 0;
const about = h("div", { id: "about" });
const making = h("section", { id: "maker", "aria-label": "How it is made" });
const tabs = h("div", { id: "facts-tabs", role: "group", "aria-label": "What is told", hidden: true });
byId("facts").append(tabs, making, about);
const drafts = new Drafts(byId("drafts"), () => showAddressed().catch(tell));
/** @type {import("./maker.js").RecipeView} */
const stack = new StackView(
  settings,
  () => textures.filter((texture) => texture.recipe !== stack.id || !stack.id),
  (model, step, layer) => postJson("/api/recipes/preview", { recipe: model.stack, step, layer, most: MOST_PIXELS }),
);
const unwanted = () => void drafts.remove(stack.id, stack.stack?.name ?? "").catch(tell);
const maker = makerIn(making, stack, settings.sizes, unwanted);

/** @param {boolean} isMaking whether the stack is shown, or what is known of the texture */
function showTab(isMaking) {
  tabs.hidden = !stack.isOpen;
  making.hidden = !stack.isOpen || !isMaking;
  about.hidden = stack.isOpen && isMaking;
  const tab = (/** @type {string} */ words, /** @type {boolean} */ making) =>
    h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-pressed": String(making === isMaking),
        onclick: () => showTab(making),
      },
      words,
    );
  tabs.replaceChildren(tab("How it is made", true), chosen ? tab("About it", false) : "");
}

const load = newest(
  () => Promise.all([getJson("/api/textures"), drafts.load()]),
  ([found]) => {
    ({ textures } = found);
    drawList();
    byId("nothing").hidden = textures.length > 0 || stack.isOpen;
  },
);

const tiles = new TextureGrid(byId("tiles"), choose);

function drawList() {
  const nothing = textures.length ? "No texture has that name." : "";
  tiles.draw(matching(textures, byId("filter").value), { chosen: chosen?.id, coming, nothing });
}

/** @param {string} id */
function choose(id) {
  history.pushState({}, "", id ? `/textures?t=${id}` : "/textures");
  show(id).catch(tell);
}

/** Shows what the address names: a texture, a stack, or the first texture there is. */
async function showAddressed() {
  const query = new URLSearchParams(location.search);
  const id = Number(query.get("stack"));
  if (!id) return show(query.get("t") ?? textures[0]?.id ?? "");
  const mine = ++asked;
  const state = await getJson(`/api/recipes/${id}`);
  if (asked === mine) openStack(new RecipeModel(state));
}

/**
 * Opens a stack by itself, without a texture that it has made.
 * @param {RecipeModel} model
 */
function openStack(model) {
  [chosen, facts, coming] = [null, null, ""];
  drawList();
  about.replaceChildren();
  viewer.before = null;
  viewer.show(null);
  byId("nothing").hidden = true;
  listLevels(1);
  stack.open(model);
  showCells();
  showTab(true);
}

/**
 * Shows a texture: its picture, its facts and its stack come at once, so that they always belong together.
 * @param {string} id
 */
async function show(id) {
  const mine = ++asked;
  const isStill = () => asked === mine;
  const next = textures.find((texture) => texture.id === id) ?? null;
  coming = next?.id ?? "";
  drawList();
  if (!next) return showNone();
  const { id: key, revision, width, height, recipe, role, channels } = next;
  const [first, told, made] = await Promise.all([
    loadLevels(key, revision, FIRST),
    getJson(`/api/textures/${key}`),
    recipe ? getJson(`/api/recipes/${recipe}`) : null,
  ]);
  if (!isStill()) return;
  const isSame = chosen?.id === id && !stack.isOpen;
  [chosen, facts, coming] = [next, told, ""];
  // A cut-out is first seen as one; a channel that was chosen stays.
  const usual = role === "colour" && channels % 2 === 0 ? "with alpha" : "colour";
  if (["colour", "with alpha"].includes(viewer.channel)) setChannel(usual);
  viewer.before = null;
  if (mine > glimpsed) viewer.show(first, isSame);
  listLevels(Math.floor(Math.log2(Math.max(width, height))) + 1);
  drawList();
  drawFacts();
  if (made) openRecipe(made, key);
  else stack.close();
  showCells();
  showTab(!!recipe);
  byId("nothing").hidden = true;
  if (Math.max(width, height) > FIRST && !stack.isOpen) {
    const whole = await loadLevels(key, revision);
    if (isStill() && mine > glimpsed) viewer.show(whole, true);
  }
}

function showNone() {
  [chosen, facts] = [null, null];
  drawList();
  stack.close();
  showCells();
  showTab(false);
  about.replaceChildren(h("p", { class: "quiet" }, "Choose a texture, import pictures, or make one."));
  viewer.before = null;
  viewer.show(null);
}

/**
 * @param {import("../types.d.ts").RecipeState} answer
 * @param {string} texture
 */
function openRecipe(answer, texture) {
  const output = Object.keys(answer.textures).find((key) => answer.textures[key] === texture);
  stack.open(new RecipeModel(answer), output);
}

function drawFacts() {
  if (!chosen || !facts) return;
  const { texture } = facts;
  const acts = {
    read: (/** @type {{ role: string, green: string }} */ reading) =>
      void changed(() => postJson(`/api/textures/${texture.id}/reading`, reading)),
    look: (/** @type {string} */ channel) =>
      setChannel(/** @type {typeof CHANNELS[number]} */ (channel === "grey" ? "red" : channel)),
  };
  about.replaceChildren(
    aboutHead(texture.name, rename, actions),
    h(
      "p",
      { class: "quiet mono" },
      `${texture.width} × ${texture.height} · ${texture.format}, ${texture.depth}, ${texture.channels} channel${texture.channels === 1 ? "" : "s"}`,
    ),
    texture.mesh
      ? h("p", {}, h("a", { href: `/meshes?m=${texture.mesh}` }, "Baked of a mesh"), ", which it follows.")
      : "",
    ...factsOf(facts, settings.roles, acts),
  );
}

const changed = inOrder(async (/** @type {{ texture: TextureInfo, note?: string }} */ { texture, note }) => {
  if (note) notice(note);
  await load();
  await show(texture.id);
}, tell);

async function rename() {
  if (!chosen) return;
  const { id, name: before } = chosen;
  const name = await askText("Rename texture", before);
  if (name && name !== before) await changed(() => postJson(`/api/textures/${id}/name`, { name }));
}

/** @returns {[string, () => void][]} */
function actions() {
  if (!chosen) return [];
  const { id, recipe } = chosen;
  const file = h("input", { type: "file", accept: byId("import-files").accept });
  file.addEventListener("change", () => {
    const [picked] = file.files ?? [];
    if (picked) void changed(() => postForm(`/api/textures/${id}/file`, { file: picked }));
  });
  /** @type {[string, () => void][]} */
  const entries = [
    ["Rename", rename],
    ["Save the file as it is", () => location.assign(`/api/textures/${id}/file`)],
    [
      "Save as …",
      () =>
        saveAs(
          id,
          (facts?.channels ?? []).map(({ name }) => name),
          settings.writable,
        ),
    ],
    ["Delete", () => remove(id)],
  ];
  entries.splice(1, 0, ["Use another texture in its place …", () => replaceEverywhere(id)]);
  if (!recipe) entries.splice(1, 0, ["Replace by another file", () => file.click()]);
  return entries;
}

/** @param {string} id */
function replaceEverywhere(id) {
  const again = () => void load().then(() => show(id), tell);
  const choose = (/** @type {string} */ other) => void replaceBy(id, other, again).catch(tell);
  void textureDialog({ title: `In the place of ${chosen?.name}`, chosen: id, choose });
}

/** @param {string} id */
async function remove(id) {
  const name = textures.find((texture) => texture.id === id)?.name;
  try {
    await postJson(`/api/textures/${id}`, {}, "DELETE");
    const back = () => void changed(() => postJson(`/api/textures/${id}/restore`));
    notice(`Deleted ${name}. Graphs that use it say so.`, { action: "Undo", act: back, stay: true });
    await load();
    choose(textures[0]?.id ?? "");
  } catch (error) {
    tell(error);
  }
}

/** @param {FileList | File[]} files */
async function take(files) {
  // What the address names is asked for first: it is no hand that chooses it.
  await loaded.catch(() => {});
  const began = asked;
  // A stack that was begun is not covered by a file that comes in.
  const isFree = () => !stack.isChanged;
  const sent = (/** @type {File} */ file, /** @type {Promise<unknown>} */ coming) => {
    const mine = asked;
    if (isFree())
      void glimpse(viewer, file, coming, () => asked === mine).then((isShown) => isShown && (glimpsed = mine));
  };
  const last = await importFiles([...files], settings.roles, sent);
  await load();
  // What a hand chose meanwhile stays.
  if (asked !== began) return;
  if (last) choose(last);
  // What was seen of a file that was refused is taken away again.
  else if (viewer.levels?.isGlimpse) await show(coming || (chosen?.id ?? ""));
}

const { setChannel, listLevels, showCells } = viewerBar(viewer, () => (stack.isOpen ? stack.seen.atlas : null));

stack.addEventListener("seen", async (event) => {
  const { detail } = /** @type {CustomEvent} */ (event);
  const { picture, alpha, size, role } = detail;
  showCells();
  byId("before").disabled = !stack.isChanged || !chosen;
  if (!picture) return;
  // What was made stays at hand to be compared with.
  if (!viewer.before && viewer.levels && chosen && stack.isChanged) viewer.before = viewer.levels;
  const levels = await levelsOf(picture, alpha, size, role);
  // Meanwhile another texture may have been chosen.
  if (stack.isOpen && stack.seen === detail && (stack.isChanged || asked > glimpsed)) viewer.show(levels, true);
});
stack.addEventListener("begun", () => history.replaceState({}, "", `/textures?stack=${stack.id}`));
stack.addEventListener("taken", () => stack.model && drafts.follow(stack.model.state));
stack.addEventListener("made", async (event) => {
  const { textures: made } = /** @type {CustomEvent} */ (event).detail;
  const before = asked;
  await load();
  const count = Object.keys(made).length;
  notice(`Made ${count} texture${count === 1 ? "" : "s"}. What uses them follows.`);
  if (asked !== before) return;
  viewer.before = null;
  const still = Object.values(made).includes(chosen?.id) ? chosen?.id : Object.values(made)[0];
  const known = textures.find(({ id }) => id === still);
  chosen = known ?? chosen;
  if (still) history.replaceState({}, "", `/textures?t=${still}`);
  drawList();
  showTab(true);
  byId("before").disabled = true;
  const told = await getJson(`/api/textures/${still}`);
  if (asked !== before) return;
  facts = told;
  drawFacts();
});

byId("filter").addEventListener("input", drawList);
byId("save-all").addEventListener("click", () => saveAll(settings.writable));
byId("import").addEventListener("click", () => byId("import-files").click());
byId("import-files").addEventListener("change", () => {
  void take(byId("import-files").files).then(() => (byId("import-files").value = ""));
});
byId("make").addEventListener("click", () => {
  const begin = (/** @type {any} */ recipe) => {
    asked += 1;
    history.pushState({}, "", "/textures?make");
    openStack(RecipeModel.begun(recipe));
  };
  menu(
    byId("make"),
    Object.entries(settings.beginnings).map(([name, recipe]) => [name, () => begin(recipe)]),
  );
});
takeDropped((files) => void take(files));
addEventListener("popstate", () => void showAddressed().catch(tell));
addEventListener("keydown", (event) => {
  if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
  const channel = CHANNELS.find((name) => name.startsWith(event.key.toLowerCase()) && name !== "with alpha");
  if (channel && event.key.length === 1) setChannel(channel);
  else if (event.key === "t") byId("tiled").click();
  else return;
  event.preventDefault();
});
addEventListener("beforeunload", (event) => {
  if (stack.model?.unsaved) event.preventDefault();
});

const refresh = async () => {
  const before = chosen;
  await load();
  if (chosen !== before) return;
  const now = textures.find((texture) => texture.id === before?.id);
  // A stack being changed is not taken away by what happens elsewhere.
  if (now && before && now.revision !== before.revision && !stack.isChanged) await show(now.id);
};
followNews(
  (news) => {
    stack.model?.catchUp(news.stack, news);
    if (news.texture) refresh().catch(tell);
  },
  () => void refresh().catch(tell),
);
const loaded = load();
loaded
  .then(() => {
    if (new URLSearchParams(location.search).has("make")) byId("make").click();
    return showAddressed();
  })
  .catch(tell);

Object.assign(globalThis, { room: { viewer, stack, maker } });
