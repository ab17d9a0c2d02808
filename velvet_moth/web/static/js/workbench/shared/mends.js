/** What a press on a mend does: an edit of the graph, or another reading of a texture. */
import { postJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";

/**
 * @param {import("../model/model.js").GraphModel} model
 * @param {import("../../types.d.ts").Problem["mends"][number]} mend
 */
export function mendButton(model, { words, operation, texture, reading }) {
  const act = () => {
    if (operation)
      return void model.edit(/** @type {import("../../types.d.ts").Operation} */ (/** @type {unknown} */ (operation)));
    // Every graph that reads the texture follows by the news of it.
    postJson(`/api/textures/${texture}/reading`, reading).then(() => model.load(), tell);
  };
  return h("button", { class: "button small", type: "button", onclick: act }, words);
}
