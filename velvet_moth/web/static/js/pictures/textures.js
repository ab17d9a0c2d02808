/** The dialog that chooses, imports or makes a texture. */
import { getJson, postForm } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";

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
 * @param {(made: TextureInfo[]) => void} done
 * @returns {HTMLFormElement}
 */
function importForm(done) {
  const file = h("input", { type: "file", accept: PICTURES, required: true, class: "field" });
  const role = select("role", ROLES);
  const form = h(
    "form",
    {},
    line("Picture", file),
    line("Read as", role),
    h("div", { class: "row end" }, h("button", { class: "button" }, "Import picture")),
  );
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const chosen = file.files?.[0];
    if (!chosen) return;
    try {
      const answer = await postForm("/api/textures", { file: chosen, role: role.value });
      if (answer.note) notice(answer.note);
      if (answer.why) notice(`${answer.texture.name} is read as ${answer.texture.role}: ${answer.why}.`);
      done([answer.texture]);
    } catch (error) {
      tell(error);
    }
  });
  return form;
}

/**
 * The address of a small picture of a texture, another one whenever it has changed.
 * @param {string} id
 * @param {number} [revision]
 */
export const pictureOf = (id, revision = 0) => `/api/textures/${id}/picture.png?v=${revision}`;

/**
 * @param {TextureInfo} texture
 * @param {boolean} isChosen
 * @param {() => void} press
 */
export const textureTile = ({ id, name, role, width, revision }, isChosen, press) =>
  h(
    "button",
    { class: "texture-tile", type: "button", "aria-pressed": String(isChosen), onclick: press },
    h("img", { src: pictureOf(id, revision), alt: "", draggable: "false" }),
    h("span", {}, name),
    h("span", { class: "quiet mono" }, `${role} · ${width}`),
  );

/**
 * Opens the dialog. With `choose`, a press on a texture gives its id and closes.
 * @param {{ chosen?: string, choose?: (id: string) => void, added?: () => void, title?: string, none?: boolean }} [options]
 */
export async function textureDialog(options = {}) {
  const list = h("div", { class: "texture-grid", role: "group", "aria-label": "Textures of this project" });
  const show = async () => {
    const { textures } = await getJson("/api/textures");
    list.replaceChildren(
      ...textures.map((/** @type {TextureInfo} */ t) =>
        textureTile(t, t.id === options.chosen, () => {
          if (!options.choose) return;
          options.choose(t.id);
          dialog.close();
        }),
      ),
    );
    if (!textures.length) list.append(h("p", { class: "quiet" }, "None yet: import a picture or make one."));
  };
  const added = () => {
    options.added?.();
    show().catch(tell);
  };
  const dialog = sheet(
    options.title ?? "Textures",
    list,
    h("details", { class: "mt-4" }, h("summary", { class: "eyebrow" }, "Import a picture"), importForm(added)),
    h("p", { class: "mt-3" }, h("a", { class: "button", href: "/textures?make", target: "_blank" }, "Make a texture")),
    h(
      "div",
      { class: "row end" },
      options.choose && options.chosen && options.none !== false
        ? h(
            "button",
            { class: "button", type: "button", onclick: () => (options.choose?.(""), dialog.close()) },
            "Use none",
          )
        : null,
      h("button", { class: "button", type: "button", onclick: () => dialog.close() }, "Close"),
    ),
  );
  // What is made in the room of textures meanwhile is here when one comes back.
  const again = () => void show().catch(tell);
  addEventListener("focus", again);
  dialog.addEventListener("close", () => removeEventListener("focus", again));
  await show().catch(tell);
}
