/** A graph as a page that stands alone: seen here first, then saved as one file with all that it has asked for. */
import { byId } from "moth/base/dom.js";
import { saveFile } from "moth/base/downloads.js";
import { notice } from "moth/base/notices.js";
import { asCommand, chosen, graph, presented } from "moth/export_room/choices.js";
import { recorded, standingAlone } from "moth/presentation/alone.js";
import { Presentation } from "moth/presentation/presentation.js";

/** @type {{ presentation: Presentation, answers: import("../presentation/alone.js").Answers } | null} */
let open = null;

/** Shows what is chosen. */
export async function follow() {
  asCommand("", []);
  if (!open) {
    /** @type {import("../presentation/alone.js").Answers} */
    const answers = new Map();
    const around = (/** @type {() => Promise<void>} */ act) => recorded(answers, act);
    open = { presentation: new Presentation(byId("presentation"), graph, presented, around), answers };
    // For tests and the curious: the page's own objects.
    Object.assign(window, { presentation: open.presentation });
  }
  await open.presentation.show(chosen("variant"));
}

/** Saves the page. */
export async function save() {
  if (!open) return;
  const { presentation, answers } = open;
  const button = byId("save-page");
  button.disabled = true;
  button.textContent = "Packing …";
  try {
    await presentation.visitAll();
    const { title } = presentation.model.state.document;
    const page = await standingAlone({ title, graph, settings: presented, variant: chosen("variant"), answers });
    saveFile(page, `${byId("save-page").dataset.stem}.html`);
    notice(`The page is saved: ${(page.size / 2 ** 20).toFixed(1)} MB, and needs nothing else.`);
  } finally {
    button.disabled = false;
    button.textContent = "Save page";
  }
}
