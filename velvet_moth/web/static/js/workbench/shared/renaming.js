/** The sheet that finds and replaces in names, and shows beforehand what comes of it. */
import { answers, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";

/** More names than this are only counted. */
const MOST = 8;

/**
 * How a name will read; the core renames by the same rule.
 * @param {string} name
 * @param {string} find
 * @param {string} put
 */
const renamed = (name, find, put) => (find ? name.replaceAll(find, put) : put ? `${name} ${put}` : name).trim() || name;

/**
 * @param {object} options
 * @param {string} options.title
 * @param {string} options.words what it is for
 * @param {string[]} options.names
 * @param {boolean} [options.onlyFound] whether names that hold nothing to replace are left out
 * @param {string} options.empty said where no name is listed
 * @param {string} options.action
 * @param {HTMLElement} [options.extra]
 * @param {(find: string, put: string) => void} options.done
 */
export function renamingSheet({ title, words, names, onlyFound = false, empty, action, extra, done }) {
  const field = (/** @type {string} */ label) =>
    h("input", {
      class: "field w-full",
      maxlength: 80,
      required: onlyFound && label === "Replace",
      "aria-label": label,
    });
  const [find, put] = [field("Replace"), field("with")];
  const list = h("ul", { class: "renaming mono" });
  const show = () => {
    const told = [...new Set(names)].filter((name) => !onlyFound || (find.value && name.includes(find.value)));
    const rows = told
      .slice(0, MOST)
      .map((name) => h("li", {}, name, h("span", { class: "quiet" }, " → "), renamed(name, find.value, put.value)));
    if (told.length > MOST) rows.push(h("li", { class: "quiet" }, `and ${told.length - MOST} more`));
    if (!told.length && (find.value || !onlyFound)) rows.push(h("li", { class: "quiet" }, empty));
    list.replaceChildren(...rows);
  };
  for (const input of [find, put]) input.addEventListener("input", show);
  const form = h(
    "form",
    { method: "dialog" },
    h("p", { class: "quiet" }, words),
    h("label", { class: "line" }, h("span", {}, "Replace"), find),
    h("label", { class: "line" }, h("span", {}, "with"), put),
    list,
    extra,
    answers(action),
  );
  form.addEventListener("submit", () => done(find.value, put.value));
  sheet(title, form);
  show();
  find.focus();
}
