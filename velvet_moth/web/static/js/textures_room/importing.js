/** Files on their way into the project, seen before they have come. */
import { postForm } from "moth/base/api.js";
import { byId } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { glimpseOf } from "moth/textures_room/previews.js";

/** The largest side that is shown before the whole picture has come. */
export const FIRST = 1024;

/**
 * Takes files in one after the other; what is wrong with one is told, and the next one follows.
 * @param {File[]} files
 * @param {Record<string, { name: string }>} roles
 * @param {(file: File, coming: Promise<unknown>) => void} sent is told of each file that is on its way
 * @returns {Promise<string>} the texture made last; empty where all were refused
 */
export async function importFiles(files, roles, sent) {
  let last = "";
  for (const [at, file] of files.entries()) {
    byId("progress").textContent = `importing ${at + 1} of ${files.length}: ${file.name}`;
    const coming = postForm("/api/textures", { file });
    sent(file, coming);
    try {
      const { texture, note, why } = await coming;
      last = texture.id;
      const read = `${texture.name} is read as ${roles[texture.role].name.toLowerCase()}: ${why}.`;
      notice([read, note].filter(Boolean).join(" "));
    } catch (error) {
      tell(error);
    }
  }
  byId("progress").textContent = "";
  return last;
}

/**
 * Shows a file until it has come.
 * @param {import("./viewer.js").Viewer} viewer
 * @param {File} file
 * @param {Promise<unknown>} coming
 * @param {() => boolean} isStill whether nothing else was asked for meanwhile
 * @returns {Promise<boolean>} whether it is shown
 */
export async function glimpse(viewer, file, coming, isStill) {
  let hasCome = false;
  const come = () => (hasCome = true);
  void coming.then(come, come);
  const seen = await glimpseOf(file, FIRST);
  if (!seen || hasCome || !isStill()) return false;
  viewer.before = null;
  viewer.show(seen);
  return true;
}
