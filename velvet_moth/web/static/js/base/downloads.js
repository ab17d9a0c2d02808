/** Files that leave by the browser's own download. */
import { send } from "moth/base/api.js";

/**
 * @param {Blob} file
 * @param {string} name
 */
export function saveFile(file, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  // A browser may read it a little later.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}

/** Saves what a link leads to, by its name there; what the server refuses is said, and leads nowhere. @param {HTMLAnchorElement} link */
export async function saveLinked(link) {
  if (link.ariaBusy === "true") return;
  const words = link.textContent ?? "";
  link.ariaBusy = "true";
  link.textContent = "Packing …";
  try {
    const answer = await send(link.href);
    const name = /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1] ?? "export";
    saveFile(await answer.blob(), name);
  } finally {
    link.ariaBusy = "false";
    link.textContent = words;
  }
}
