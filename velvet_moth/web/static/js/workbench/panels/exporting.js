/** Export says what goes into the file. */
import { byId } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";

/** @param {number} count @param {string} one */
const counted = (count, one) => `${count} ${one}${count === 1 ? "" : "s"}`;

/** @param {import("../model/model.js").GraphModel} model */
export function sayWhatIsExported(model) {
  byId("export").addEventListener("click", () => {
    const { nodes, parameters, variants } = model.state.document;
    const motifs = new Set(nodes.map(({ type }) => type).filter((type) => type.startsWith("motif_")));
    const parts = [
      counted(nodes.length, "card"),
      counted(parameters.length, "parameter"),
      counted(variants.length, "variant"),
      counted(Object.keys(model.state.textures).length, "texture"),
      ...(motifs.size ? [counted(motifs.size, "motif")] : []),
    ];
    notice(`The file holds ${parts.slice(0, -1).join(", ")} and ${parts.at(-1)}.`, {
      mend: "It opens here by Import graph file, and ./moth compile makes shaders of it.",
    });
  });
}
