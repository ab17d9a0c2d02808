/** The export of a graph: what is chosen stands in the address, and what comes of it follows. */
import { byId } from "moth/base/dom.js";
import { saveLinked } from "moth/base/downloads.js";
import * as baked from "moth/export_room/baked.js";
import { asked, chosen, fill, form, refuse } from "moth/export_room/choices.js";
import * as material from "moth/export_room/material.js";
import * as page from "moth/export_room/page.js";
import * as text from "moth/export_room/text.js";

/** What follows the choices, by the way out. @type {Record<string, () => Promise<void>>} */
const FOLLOW = { text: text.follow, baked: baked.follow, material: material.follow, page: page.follow };

/** @param {any} error */
const inWords = (error) => refuse(error.mend ? `${error.message} ${error.mend}` : error.message);

/** Shows what is chosen. @param {boolean} isNew whether the address follows too, once it can be */
function follow(isNew) {
  const way = chosen("as");
  for (const part of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-way]")))
    part.hidden = !part.dataset.way?.split(" ").includes(way);
  FOLLOW[way]().then(() => {
    refuse("");
    if (isNew) history.pushState({}, "", `?${asked()}`);
  }, inWords);
}

form.addEventListener("submit", (event) => {
  event.preventDefault();
  if (event.submitter === byId("bake")) baked.bake().then(() => refuse(""), inWords);
});
for (const id of ["package", "material-package"])
  byId(id).addEventListener("click", (/** @type {Event} */ event) => {
    event.preventDefault();
    saveLinked(/** @type {any} */ (byId(id))).then(() => {
      refuse("");
      if (id === "package") text.leaves();
    }, inWords);
  });
byId("save-page").addEventListener("click", () => void page.save().catch(inWords));
form.addEventListener("change", () => follow(true));
addEventListener("popstate", () => {
  fill();
  follow(false);
});
fill();
// What was chosen before the address was read would be lost.
form.inert = false;
follow(false);
