/** One texture in the place of another, everywhere at once, and back again. */
import { postJson } from "moth/base/api.js";
import { notice, tell } from "moth/base/notices.js";

/** @param {number} count @param {string} word */
const counted = (count, word) => (count ? [`${count} ${word}${count === 1 ? "" : "s"}`] : []);

/**
 * @param {string} id
 * @param {string} other
 * @param {() => void} done
 */
export async function replaceBy(id, other, done) {
  const made = await postJson(`/api/textures/${id}/replace`, { by: other });
  const where = [...counted(made.graphs.length, "graph"), ...counted(made.recipes.length, "stack")].join(" and ");
  const titles = [...made.graphs, ...made.recipes].map(({ title }) => title).join(", ");
  const act = () => {
    postJson("/api/textures/replace/undo", made).then(() => (notice("Taken back."), done()), tell);
  };
  notice(`Replaced in ${where}: ${titles}.`, { action: "Undo", act, stay: true });
  done();
}
