/** Lays cards out beside the page, so that no hand has to wait for it. */
import { columns } from "./layout.js";

// An import map reaches no worker.
const library = new URL("../../../../vendor/dagre/dagre.esm.js", import.meta.url).href;
const ready = /** @type {Promise<typeof import("dagre")>} */ (import(library));

addEventListener("message", async (event) => {
  const { number, boxes, docked, groups } = event.data;
  const { places, routes } = columns(await ready, boxes, docked, groups);
  postMessage({ number, places: [...places], routes: [...routes] });
});
