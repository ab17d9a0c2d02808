/** The fields of keyed values on cards and slips follow the moment that is shown. */
import { valueField } from "moth/workbench/graph/cards/cards.js";

/** How often they do while time runs, in milliseconds. */
const OFTEN = 200;

/**
 * @param {import("../../model/model.js").GraphModel} model
 * @param {HTMLElement} world what the cards are in
 */
export function followTime(model, world) {
  let [drawn, later] = [0, 0];
  const follow = () => {
    clearTimeout(later);
    const wait = drawn + OFTEN - performance.now();
    if (wait > 0) {
      later = window.setTimeout(follow, wait);
      return;
    }
    drawn = performance.now();
    for (const row of /** @type {NodeListOf<HTMLElement>} */ (world.querySelectorAll("li.keyed"))) {
      const { node = "", input = "" } = row.dataset;
      const field = row.querySelector(".input-name")?.nextElementSibling;
      if (!field || row.contains(document.activeElement) || model.live.has(`${node}.${input}`)) continue;
      const key = row.closest(".slip") ? { key: `slip.${node}.${input}` } : undefined;
      const fresh = valueField(model, node, model.port(node, input), key);
      if (fresh) field.replaceWith(fresh);
    }
  };
  model.addEventListener("time", () => model.keys.targets().length && follow());
}
