/** The library page: new, import, rename, duplicate, delete with undo. */
import { postForm, postJson, send } from "moth/base/api.js";
import { answers, askText, menu, sheet } from "moth/base/dialogs.js";
import { byId, h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { watchPictures } from "moth/pictures/pictures.js";
import { textureDialog } from "moth/pictures/textures.js";

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

/**
 * @param {HTMLElement} tile
 * @param {import("../types.d.ts").Operation} operation
 */
function edit(tile, operation) {
  const { graph, revision } = tile.dataset;
  /** @param {number} seen */
  const send = (seen) => postJson(`/api/graphs/${graph}/operations`, { revision: seen, operation });
  // Edited in another page since this one was loaded: a new name still stands on top of that.
  return send(Number(revision)).catch((error) => {
    if (error.code === "stale-revision") return send(error.body.revision);
    throw error;
  });
}

const reload = () => location.reload();

/** @param {HTMLElement} tile */
async function rename(tile) {
  const wanted = await askText("Rename graph", tile.dataset.title ?? "");
  if (wanted && wanted !== tile.dataset.title) doing(edit(tile, { op: "set_title", value: wanted }), reload);
}

/** @param {HTMLElement} tile */
function tag(tile) {
  const field = h("input", { class: "field w-full", value: tile.dataset.tags, maxlength: 300, "aria-label": "Tags" });
  const known = [...document.querySelectorAll(".tag-link")].map((link) => link.firstChild?.textContent?.trim() ?? "");
  const written = () =>
    field.value
      .split(",")
      .map((word) => word.trim().toLowerCase())
      .filter(Boolean);
  /** @param {string} word */
  const toggle = (word) => {
    const now = written();
    field.value = (now.includes(word) ? now.filter((one) => one !== word) : [...now, word]).join(", ");
    field.focus();
  };
  const chips = known.map((word) =>
    h("button", { type: "button", class: "button small", onclick: () => toggle(word) }, word),
  );
  const words = h("p", { class: "quiet mb-2" }, "Separate them by commas. A graph is found by each of them.");
  const form = h(
    "form",
    { method: "dialog" },
    words,
    field,
    h("div", { class: "row tag-chips" }, chips),
    answers("Keep"),
  );
  form.addEventListener("submit", (event) => {
    // The dialog stays until the tags are kept: what is refused can be mended.
    event.preventDefault();
    doing(edit(tile, { op: "set_tags", value: written() }), reload);
  });
  sheet(`Tags of ${tile.dataset.title}`, form);
}

document.querySelector("main")?.addEventListener("click", (/** @type {MouseEvent} */ event) => {
  const button = /** @type {HTMLElement} */ (event.target).closest("[data-menu]");
  const tile = /** @type {HTMLElement | null} */ (button?.closest("[data-graph]"));
  if (!button || !tile) return;
  if (tile.dataset.trouble !== undefined) {
    // What cannot be read whole is taken out as it is kept, or away.
    menu(/** @type {HTMLElement} */ (button), [
      ["Export as it is kept", () => location.assign(`/api/graphs/${tile.dataset.graph}/kept.json`)],
      ["Delete", () => remove(tile)],
    ]);
    return;
  }
  menu(/** @type {HTMLElement} */ (button), [
    ["Rename", () => rename(tile)],
    ["Tags …", () => tag(tile)],
    ["Duplicate", () => doing(postJson(`/api/graphs/${tile.dataset.graph}/duplicate`), () => location.reload())],
    ["Export file", () => location.assign(`/api/graphs/${tile.dataset.graph}/export.json`)],
    ["Delete", () => remove(tile)],
  ]);
});

/**
 * Fetches the tiles after those there are, in the place of the line that offers them.
 * @param {HTMLElement} line
 */
async function more(line) {
  const { next = "0", motifs = "false" } = line.dataset;
  coming.unobserve(line);
  const sort = /** @type {HTMLSelectElement} */ (byId("sort")).value;
  const asked = new URLSearchParams(location.search);
  const [q, tags] = ["q", "tags"].map((name) => asked.get(name) ?? "");
  const answer = await send(`/tiles?${new URLSearchParams({ start: next, motifs, q, tags, sort })}`);
  const fresh = document.createElement("template");
  fresh.innerHTML = await answer.text();
  line.replaceWith(fresh.content);
  watch();
}

/** Lines that come into view bring their tiles by themselves. */
const coming = new IntersectionObserver(
  (seen) =>
    seen.forEach(
      ({ isIntersecting, target }) => isIntersecting && doing(more(/** @type {HTMLElement} */ (target)), () => {}),
    ),
  { rootMargin: "600px" },
);
const watch = () => document.querySelectorAll(".more-tiles").forEach((line) => coming.observe(line));
watch();
document.addEventListener("click", ({ target }) => {
  const line = /** @type {HTMLElement} */ (target).closest(".more-tiles");
  if (line) doing(more(/** @type {HTMLElement} */ (line)), () => {});
});
watchPictures();

byId("sort").addEventListener("change", () => byId("sort").form.requestSubmit());
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
