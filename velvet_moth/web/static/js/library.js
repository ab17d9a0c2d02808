/** The library page: new, import, rename, duplicate, delete with undo. */
import { postForm, postJson } from "moth/api.js";
import { askText, menu } from "moth/dialogs.js";
import { byId } from "moth/dom.js";
import { notice, tell } from "moth/notices.js";
import { textureDialog } from "moth/textures.js";

/**
 * @param {Promise<any>} work
 * @param {(answer: any) => void} then
 */
const doing = (work, then) => work.then(then).catch(tell);

/** @param {{ id: number }} made */
const open = (made) => location.assign(`/graphs/${made.id}`);

/**
 * @param {string} starter
 * @param {string} title
 */
const begin = (starter, title) => doing(postJson("/api/graphs", { title, starter }), open);

/** @param {HTMLElement} tile */
function remove(tile) {
  const { graph, title } = tile.dataset;
  doing(postJson(`/api/graphs/${graph}`, {}, "DELETE"), () => {
    tile.hidden = true;
    const back = () => doing(postJson(`/api/graphs/${graph}/restore`), () => (tile.hidden = false));
    notice(`Deleted ${title}.`, { action: "Undo", act: back, stay: true });
  });
}

/** @param {HTMLElement} tile */
async function rename(tile) {
  const { graph, title, revision } = tile.dataset;
  const wanted = await askText("Rename graph", title ?? "");
  if (!wanted || wanted === title) return;
  /** @param {number} seen */
  const send = (seen) =>
    postJson(`/api/graphs/${graph}/operations`, { revision: seen, operation: { op: "rename", title: wanted } });
  // Edited in another page since this one was loaded: a new name still stands on top of that.
  const renamed = send(Number(revision)).catch((error) => {
    if (error.code === "stale-revision") return send(error.body.revision);
    throw error;
  });
  doing(renamed, () => location.reload());
}

document.querySelector("main")?.addEventListener("click", (/** @type {MouseEvent} */ event) => {
  const button = /** @type {HTMLElement} */ (event.target).closest("[data-menu]");
  const tile = /** @type {HTMLElement | null} */ (button?.closest("[data-graph]"));
  if (!button || !tile) return;
  menu(/** @type {HTMLElement} */ (button), [
    ["Rename", () => rename(tile)],
    ["Duplicate", () => doing(postJson(`/api/graphs/${tile.dataset.graph}/duplicate`), () => location.reload())],
    ["Export file", () => location.assign(`/api/graphs/${tile.dataset.graph}/export.json`)],
    ["Delete", () => remove(tile)],
  ]);
});

byId("new-empty").addEventListener("click", () => begin("", "New graph"));
for (const tile of document.querySelectorAll("[data-starter]")) {
  tile.addEventListener("click", () => {
    const { starter = "" } = /** @type {HTMLElement} */ (tile).dataset;
    begin(starter, (starter && tile.querySelector("strong")?.textContent) || "New graph");
  });
}
byId("import").addEventListener("click", () => byId("import-file").click());
byId("import-file").addEventListener("change", () => {
  const input = byId("import-file");
  if (input.files[0]) doing(postForm("/api/graphs/import", { file: input.files[0] }), open);
  input.value = "";
});
byId("add-texture").addEventListener("click", async () => {
  let isNew = false;
  await textureDialog({ title: "Textures", added: () => (isNew = true) });
  document.querySelector("dialog")?.addEventListener("close", () => isNew && location.reload());
});
// A page from the back-forward cache may be older than the graphs.
addEventListener("pageshow", (event) => {
  if (event.persisted) location.reload();
});
