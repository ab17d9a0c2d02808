/** Saving textures as files: one in a format of choice, or all of them in a ZIP. */
import { answers, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/**
 * Asks in which format, and which channel, a texture is to be saved.
 * @param {string} id
 * @param {string[]} channels
 * @param {Record<string, string>} writable formats by key
 */
export function saveAs(id, channels, writable) {
  const names = ["all channels", ...channels];
  const format = select("Format", writable);
  const channel = select("Channel", Object.fromEntries(names.map((name, i) => [i ? name : "", name])));
  ask("Save as", [format, channel], () => {
    location.assign(`/api/textures/${id}/as/${format.value}?channel=${encodeURIComponent(channel.value)}`);
  });
}

/** @param {string} label @param {Record<string, string>} options */
const select = (label, options) =>
  h(
    "select",
    { class: "field", "aria-label": label },
    Object.entries(options).map(([value, words]) => h("option", { value }, words)),
  );

/**
 * @param {string} title
 * @param {(HTMLSelectElement | HTMLInputElement)[]} fields
 * @param {() => void} act
 */
function ask(title, fields, act) {
  const lines = fields.map((field) =>
    h("label", { class: "line" }, h("span", {}, field.getAttribute("aria-label")), field),
  );
  const form = h("form", { method: "dialog" }, lines, answers("Save"));
  form.addEventListener("submit", act);
  sheet(title, form);
}

/**
 * Asks how all textures are to be saved.
 * @param {Record<string, string>} writable formats by key
 */
export function saveAll(writable) {
  const format = select("Format", writable);
  const names = h("input", {
    class: "field",
    value: "{name}_{role}",
    maxlength: 120,
    required: true,
    "aria-label": "File names",
  });
  ask("Save all textures as a ZIP", [format, names], () => {
    location.assign(`/api/textures/all.zip?format=${format.value}&names=${encodeURIComponent(names.value)}`);
  });
}
