/** Searching for a node to add, and choosing from a list by typing. */
import { getJson } from "moth/api.js";
import { sheet } from "moth/dialogs.js";
import { h } from "moth/dom.js";
import { tell } from "moth/notices.js";

/** @typedef {{ name: string, note?: string, words?: string, picture?: string, act: () => void }} Choice */

/**
 * A list that narrows while one types; arrows and Enter choose.
 * @param {string} title
 * @param {string} placeholder
 * @param {(query: string) => Promise<Choice[]> | Choice[]} find
 */
export function choose(title, placeholder, find) {
  let at = 0;
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
  /** @param {number} index */
  const take = (index) => {
    const chosen = choices[index];
    if (!chosen) return;
    dialog.close();
    chosen.act();
  };
  const mark = () => {
    [...list.children].forEach((item, i) => item.setAttribute("aria-selected", String(i === at)));
    const item = list.children[at];
    item?.scrollIntoView({ block: "nearest" });
    input.setAttribute("aria-activedescendant", item?.id ?? "");
  };
  const show = async () => {
    const number = (asked += 1);
    const found = await find(input.value.trim());
    if (number !== asked) return;
    choices = found;
    at = 0;
    list.replaceChildren(
      ...choices.map((c, i) =>
        h(
          "li",
          { id: `choice-${i}`, role: "option", onclick: () => take(i) },
          c.picture ? h("img", { class: "choice-picture", src: c.picture, alt: "", loading: "lazy" }) : null,
          h("span", { class: "choice-name" }, c.name),
          c.note ? h("span", { class: "quiet" }, c.note) : null,
          c.words ? h("span", { class: "choice-words quiet" }, c.words) : null,
        ),
      ),
    );
    list.dataset.query = input.value;
    if (!choices.length) list.append(h("li", { class: "quiet" }, "Nothing found. Try another word for it."));
    mark();
  };
  input.addEventListener("input", () => show().catch(tell));
  input.addEventListener("keydown", (event) => {
    if (event.key === "ArrowDown") at = Math.min(at + 1, choices.length - 1);
    else if (event.key === "ArrowUp") at = Math.max(at - 1, 0);
    else if (event.key === "Enter") {
      event.preventDefault();
      if (list.dataset.query === input.value) return take(at);
      return void show().then(() => take(0));
    } else return;
    event.preventDefault();
    mark();
  });
  show().catch(tell);
  input.focus();
}

/**
 * @param {import("./model.js").GraphModel} model
 * @param {(type: string) => void} add
 * @param {(type: import("../types.d.ts").NodeType) => boolean} [fits]
 */
export function chooseNode(model, add, fits = () => true) {
  choose("Add node", "Name, other word, or what you need: rim, complement, repeat…", async (query) => {
    const { hits } = await getJson(`/api/nodes/search?q=${encodeURIComponent(query)}`);
    return hits
      .map((/** @type {any} */ hit) => {
        if (hit.kind) model.motifs.set(hit.key, hit.kind);
        return { hit, type: /** @type {any} */ (model.kind(hit.key)) };
      })
      .filter((/** @type {any} */ { type }) => type.key !== model.state.motif)
      .filter((/** @type {any} */ { type }) => fits(type))
      .map((/** @type {any} */ { hit, type }) => ({
        name: type.name,
        note: hit.why && hit.why !== type.sentence ? hit.why : type.group,
        words: type.sentence,
        picture: model.settings.nodes[type.key] ? `/nodes/${type.key}/picture.png` : undefined,
        act: () => add(type.key),
      }));
  });
}
