/** Searching for a node to add, and choosing from a list by typing. */
import { getJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { kept, keep } from "moth/base/settings.js";

/** @typedef {{ name: string, note?: string, words?: string, picture?: string, star?: string, act: () => void }} Choice */
/** @typedef {import("../../types.d.ts").NodeType} NodeType */
/** @typedef {{ clientX: number, clientY: number } | null} At */

const MOST_RECENT = 8;

/**
 * A list that narrows while one types; arrows and Enter choose.
 * @param {string} title
 * @param {string} placeholder
 * @param {(query: string) => Promise<Choice[]> | Choice[]} find
 * @param {At} [at] where it opens; in the middle of the window without
 */
export function choose(title, placeholder, find, at) {
  let marked = 0;
  /** @type {Choice[]} */
  let choices = [];
  let asked = 0;
  const input = h("input", {
    class: "field w-full",
    placeholder,
    "aria-label": title,
    role: "combobox",
    "aria-expanded": "true",
    "aria-controls": "choices",
    autocomplete: "off",
    spellcheck: "false",
  });
  const list = h("ul", { id: "choices", role: "listbox", class: "choices", "aria-label": title });
  const dialog = sheet(title, input, list);
  dialog.classList.add("chooser");
  if (at) openAt(dialog, at);
  /** @param {number} index */
  const take = (index) => {
    const chosen = choices[index];
    if (!chosen) return;
    dialog.close();
    chosen.act();
  };
  const mark = () => {
    [...list.children].forEach((item, i) => item.setAttribute("aria-selected", String(i === marked)));
    const item = list.children[marked];
    item?.scrollIntoView({ block: "nearest" });
    input.setAttribute("aria-activedescendant", item?.id ?? "");
  };
  const show = async () => {
    const number = (asked += 1);
    const found = await find(input.value.trim());
    if (number !== asked) return;
    choices = found;
    marked = 0;
    list.replaceChildren(...choices.map((choice, i) => choiceRow(choice, i, () => take(i))));
    list.dataset.query = input.value;
    if (!choices.length) list.append(h("li", { class: "quiet" }, "Nothing found. Try another word for it."));
    mark();
  };
  input.addEventListener("input", () => show().catch(tell));
  input.addEventListener("keydown", (event) => {
    const { star } = choices[marked] ?? {};
    if (event.key === "ArrowDown") marked = Math.min(marked + 1, choices.length - 1);
    else if (event.key === "ArrowUp") marked = Math.max(marked - 1, 0);
    else if (event.key === "ArrowRight" && star && input.selectionEnd === input.value.length) toggleStar(star, list);
    else if (event.key === "Enter") {
      event.preventDefault();
      if (list.dataset.query === input.value) return take(marked);
      return void show().then(() => take(0));
    } else return;
    event.preventDefault();
    mark();
  });
  show().catch(tell);
  input.focus();
}

/**
 * @param {HTMLDialogElement} dialog
 * @param {{ clientX: number, clientY: number }} at
 */
function openAt(dialog, { clientX, clientY }) {
  const [width, height] = [520, Math.min(470, innerHeight - 24)];
  dialog.classList.add("at-pointer");
  dialog.style.left = `${Math.max(12, Math.min(clientX - 40, innerWidth - width - 12))}px`;
  dialog.style.top = `${Math.max(12, Math.min(clientY - 30, innerHeight - height - 12))}px`;
}

/**
 * @param {Choice} choice
 * @param {number} index
 * @param {() => void} take
 */
function choiceRow({ name, note, words, picture, star }, index, take) {
  return h(
    "li",
    { id: `choice-${index}`, role: "option", onclick: take },
    picture ? h("img", { class: "choice-picture", src: picture, alt: "", loading: "lazy" }) : null,
    h("span", { class: "choice-name" }, name),
    note ? h("span", { class: "quiet" }, note) : null,
    words ? h("span", { class: "choice-words quiet" }, words) : null,
    star ? starButton(star) : null,
  );
}

/** @returns {string[]} */
const favourites = () => kept("favourites", []);

/** @param {string} type */
function starButton(type) {
  const button = h("span", {
    class: "star",
    title: "Favourite (right arrow)",
    data: { star: type },
    onclick: (/** @type {Event} */ event) => {
      event.stopPropagation();
      toggleStar(type, /** @type {HTMLElement} */ (button.closest("ul")));
    },
  });
  button.classList.toggle("on", favourites().includes(type));
  button.textContent = favourites().includes(type) ? "★" : "☆";
  return button;
}

/**
 * @param {string} type
 * @param {HTMLElement} list
 */
function toggleStar(type, list) {
  const now = favourites();
  const on = !now.includes(type);
  keep("favourites", on ? [...now, type] : now.filter((t) => t !== type));
  const star = list.querySelector(`[data-star="${type}"]`);
  star?.classList.toggle("on", on);
  if (star) star.textContent = on ? "★" : "☆";
}

/** @param {string} type */
export function remember(type) {
  keep("recent", [type, ...kept("recent", []).filter((/** @type {string} */ t) => t !== type)].slice(0, MOST_RECENT));
}

/**
 * Asks for a node. With nothing typed, favourites and the last ones added come first; `rank` tells how well
 * a kind fits where it is to go, 0 for not at all.
 * @param {import("../model/model.js").GraphModel} model
 * @param {(type: string) => void} add
 * @param {{ at?: At, rank?: (type: NodeType) => number }} [options]
 */
export function chooseNode(model, add, { at = null, rank = () => 1 } = {}) {
  const find = async (/** @type {string} */ query) => {
    const { hits } = await getJson(`/api/nodes/search?q=${encodeURIComponent(query)}`);
    const first = query ? [] : [...favourites(), ...kept("recent", [])];
    const early = (/** @type {string} */ type) => (first.includes(type) ? first.length - first.indexOf(type) : 0);
    return hits
      .map((/** @type {any} */ hit) => {
        if (hit.kind) model.motifs.set(hit.key, hit.kind);
        return { hit, type: /** @type {NodeType} */ (model.kind(hit.key)) };
      })
      .filter((/** @type {any} */ { type }) => type.key !== model.state.motif && rank(type) > 0)
      .map((/** @type {any} */ found) => ({ ...found, early: early(found.type.key), fit: rank(found.type) }))
      .sort((/** @type {any} */ a, /** @type {any} */ b) => b.early - a.early || (query ? 0 : b.fit - a.fit))
      .map((/** @type {any} */ { hit, type, early: isEarly }) => ({
        name: type.name,
        note: noteOf(hit, type, isEarly),
        words: type.sentence,
        picture: model.settings.nodes[type.key] ? `/nodes/${type.key}/picture.png` : undefined,
        star: type.key,
        act: () => {
          remember(type.key);
          add(type.key);
        },
      }));
  };
  choose("Add node", "Name, other word, or what you need: rim, complement, repeat…", find, at);
}

/**
 * Why a node stands where it does in the list.
 * @param {{ why: string }} hit
 * @param {NodeType} type
 * @param {number} early
 */
function noteOf(hit, type, early) {
  if (hit.why && hit.why !== type.sentence) return hit.why;
  if (early) return favourites().includes(type.key) ? "favourite" : "added lately";
  return type.group;
}
