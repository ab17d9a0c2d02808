/** Pictures that the server had no time for are asked for again. */

const MOST_TRIES = 6;
const FIRST_WAIT = 1500;

/** Watches every picture of the page, those to come too. */
export function askAgainForPictures() {
  document.addEventListener(
    "error",
    ({ target }) => {
      if (!(target instanceof HTMLImageElement) || !target.src.includes("/api/")) return;
      const tries = Number(target.dataset.tries ?? 0) + 1;
      if (tries > MOST_TRIES) return;
      target.dataset.tries = String(tries);
      // Meanwhile nothing says that it is broken.
      target.classList.add("asked-again");
      const { src } = target;
      setTimeout(() => (target.src = src), FIRST_WAIT * tries);
    },
    // What happens to a picture does not rise to the document.
    { capture: true },
  );
  document.addEventListener(
    "load",
    ({ target }) => target instanceof Element && target.classList.remove("asked-again"),
    {
      capture: true,
    },
  );
}
