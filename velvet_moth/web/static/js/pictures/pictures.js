/** Pictures of graphs: those the server had no time for are asked for again, and those that stand in are replaced. */

const MOST_TRIES = 6;
const FIRST_WAIT = 1500;

/** Replaces one picture after the other, so that the server and its connections stay free for whoever works. */
let replacing = Promise.resolve();

/** Watches every picture of the page, those to come too. */
export function watchPictures() {
  document.addEventListener("error", ({ target }) => askAgain(target), {
    // What happens to a picture does not rise to the document.
    capture: true,
  });
  document.addEventListener("load", ({ target }) => shown(target), { capture: true });
  // Those that were there before this script.
  for (const image of document.images) if (image.complete && image.naturalWidth) shown(image);
}

/** @param {EventTarget | null} target */
function shown(target) {
  if (!(target instanceof HTMLImageElement)) return;
  target.classList.remove("asked-again");
  if (/\/api\/graphs\/.*\/picture\.png/.test(target.src) && !target.src.includes("fresh="))
    replacing = replacing.then(() => replace(target)).catch(() => {});
}

/** @param {EventTarget | null} target */
function askAgain(target) {
  if (!(target instanceof HTMLImageElement) || !target.src.includes("/api/")) return;
  const tries = Number(target.dataset.tries ?? 0) + 1;
  if (tries > MOST_TRIES) return;
  target.dataset.tries = String(tries);
  // Meanwhile nothing says that it is broken.
  target.classList.add("asked-again");
  const { src } = target;
  setTimeout(() => (target.src = src), FIRST_WAIT * tries);
}

/**
 * Waits for the picture that this program paints, where another one stands in for it.
 * @param {HTMLImageElement} image
 */
async function replace(image) {
  const { src } = image;
  const shown = await fetch(src, { method: "HEAD" });
  if (shown.headers.get("X-Stand-In") !== "yes") return;
  const fresh = `${src}${src.includes("?") ? "&" : "?"}fresh=1`;
  // A picture that cannot be painted now is painted when the page is opened again.
  if ((await fetch(fresh)).ok && image.isConnected && image.src === src) image.src = fresh;
}
