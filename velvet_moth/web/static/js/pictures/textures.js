/** The list of the project's textures, with what finds, imports and makes one; and a dialog that holds it. */
import { getJson, postForm } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { TextureGrid, matching } from "moth/pictures/texture_grid.js";

/** @typedef {import("../types.d.ts").TextureInfo} TextureInfo */

const ROLES = {
  "": "what the picture says",
  colour: "Colour (sRGB)",
  data: "Data or mask (linear)",
  normal: "Normal map",
  flow: "Flow map",
  height: "Height",
};

/** The files a picture may come in. */
export const PICTURES = ".png,.jpg,.jpeg,.tga,.webp,.exr,.hdr";

/**
 * @param {string} label
 * @param {HTMLElement} control
 */
const line = (label, control) => h("label", { class: "line" }, h("span", {}, label), control);

/**
 * @param {string} name
 * @param {Record<string, string>} options
 * @param {string} [chosen]
 */
const select = (name, options, chosen) =>
  h(
    "select",
    { class: "field", name },
    Object.entries(options).map(([value, words]) => h("option", { value, selected: value === chosen }, words)),
  );

/**
 * @param {File} file
 * @param {string} [role]
 * @returns {Promise<TextureInfo>}
 */
async function importOne(file, role = "") {
  const answer = await postForm("/api/textures", { file, role });
  if (answer.note) notice(answer.note);
  if (answer.why) notice(`${answer.texture.name} is read as ${answer.texture.role}: ${answer.why}.`);
  return answer.texture;
}

/**
 * @param {(texture: TextureInfo) => void} done called for each that came in
 * @returns {HTMLFormElement}
 */
function importForm(done) {
  const file = h("input", { type: "file", accept: PICTURES, required: true, multiple: true, class: "field" });
  const role = select("role", ROLES);
  const said = h("span", { class: "quiet", role: "status" });
  const submit = h("button", { class: "button" }, "Import");
  const form = h(
    "form",
    {},
    line("Pictures", file),
    line("Read as", role),
    h("div", { class: "row end" }, said, submit),
  );
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const files = [...(file.files ?? [])];
    submit.disabled = true;
    for (const [i, chosen] of files.entries()) {
      said.textContent = files.length > 1 ? `${i + 1} of ${files.length}: ${chosen.name}` : "";
      // What is wrong with one file keeps no other from coming in.
      await importOne(chosen, role.value).then(done, tell);
    }
    said.textContent = "";
    submit.disabled = false;
  });
  return form;
}

export class TextureList {
  /**
   * @param {(texture: TextureInfo) => void} press
   * @param {(texture: TextureInfo) => void} [added] called for each that was imported
   */
  constructor(press, added = () => {}) {
    /** @type {TextureInfo[]} */
    this.textures = [];
    /** The id of the one that is chosen now. */
    this.chosen = "";
    const element = h("div", { class: "texture-grid", role: "group", "aria-label": "Textures of this project" });
    this.grid = new TextureGrid(element, (id) => press(this.of(id)));
    this.find = h("input", { type: "search", class: "field w-full", "aria-label": "Find a texture" });
    this.find.placeholder = "Name, role or format";
    this.find.addEventListener("input", () => this.#draw());
    this.find.addEventListener("keydown", (event) => {
      const first = /** @type {HTMLElement | null} */ (element.querySelector(".texture-tile"));
      if (event.key === "Enter") first?.click();
      else if (event.key === "ArrowDown") first?.focus();
      else return;
      event.preventDefault();
    });
    const done = (/** @type {TextureInfo} */ texture) => {
      added(texture);
      void this.load();
    };
    this.element = h(
      "div",
      { class: "texture-list" },
      this.find,
      h("a", { class: "button small", href: "/textures?make", target: "_blank" }, "Make a texture"),
      h("details", {}, h("summary", { class: "eyebrow" }, "Import pictures"), importForm(done)),
      element,
    );
  }

  /** The texture with an id that is in the list. @param {string} id */
  of(id) {
    return /** @type {TextureInfo} */ (this.textures.find((texture) => texture.id === id));
  }

  /** Asks for the textures there are now. */
  async load() {
    try {
      ({ textures: this.textures } = await getJson("/api/textures"));
      this.#draw();
    } catch (error) {
      tell(error);
    }
  }

  #draw() {
    const nothing = this.textures.length ? "No texture has these words." : "None yet: import a picture or make one.";
    this.grid.draw(matching(this.textures, this.find.value), { chosen: this.chosen, nothing });
  }
}

/**
 * Opens the list as a dialog. With `choose`, a press on a texture gives its id and closes.
 * @param {{ title: string, chosen?: string, choose?: (id: string) => void, added?: () => void }} options
 */
export async function textureDialog({ title, chosen = "", choose, added }) {
  const list = new TextureList(({ id }) => {
    choose?.(id);
    if (choose) dialog.close();
  }, added);
  list.chosen = chosen;
  const close = h("button", { class: "button", type: "button", onclick: () => dialog.close() }, "Close");
  const dialog = sheet(title, list.element, h("div", { class: "row end" }, close));
  // What is made in the room of textures meanwhile is here when one comes back.
  const again = () => void list.load();
  addEventListener("focus", again);
  dialog.addEventListener("close", () => removeEventListener("focus", again));
  await list.load();
}
