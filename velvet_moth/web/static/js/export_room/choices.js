/** What is chosen of an export: the form, and the address, which holds only what differs from the defaults. */
import { byId } from "moth/base/dom.js";

/** @type {{ graph: number, choices: Record<string, string>, presented: import("../types.d.ts").StageSettings }} */
const { graph, choices, presented } = JSON.parse(byId("settings").textContent ?? "{}");
export { graph, presented };
export const form = /** @type {HTMLFormElement} */ (/** @type {unknown} */ (byId("choices")));

/** What one field says now. @param {string} key */
export const chosen = (key) => String(new FormData(form).get(key) ?? "");

/** @param {string[]} [only] the fields that are asked for; all without */
export function asked(only = Object.keys(choices)) {
  const found = new URLSearchParams();
  for (const key of only) if (chosen(key) !== choices[key]) found.set(key, chosen(key));
  return found;
}

/** Puts what the address says into the form. */
export function fill() {
  const query = new URLSearchParams(location.search);
  for (const [key, value] of Object.entries(choices)) {
    const field = form.elements.namedItem(key);
    const now = query.get(key) ?? value;
    if (field instanceof HTMLInputElement && field.type === "checkbox") field.checked = now === field.value;
    else if (field instanceof RadioNodeList || field instanceof HTMLSelectElement || field instanceof HTMLInputElement)
      field.value = now;
  }
}

/** @param {string} words what is wrong with the choices; empty for nothing */
export function refuse(words) {
  byId("refused").textContent = words;
  byId("refused").hidden = !words;
  // The button that was pressed is far from it.
  if (words) byId("refused").scrollIntoView({ block: "nearest" });
}

/** The same as a command. @param {string} output where it writes; empty where there is none @param {[string, string][]} options */
export function asCommand(output, options) {
  byId("as-command").hidden = !output;
  const words = options.map(([key, value]) => `--${key} ${/^[\w.-]*$/.test(value) ? value : `"${value}"`}`.trim());
  byId("command").textContent = ["./moth export GRAPH.moth.json", `-o ${output}`, ...words].join(" \\\n  ");
}

/** @param {number} count @param {string} one @param {string} many */
export const counted = (count, one, many = `${one}s`) => `${count.toLocaleString("en")} ${count === 1 ? one : many}`;
