/** News of changed graphs, by one event stream for all tabs of a browser. */

/** @typedef {import("../types.d.ts").News} News */

/**
 * @param {(news: News) => void} changed
 * @param {() => void} missed called when news may have been missed
 */
export function followNews(changed, missed) {
  /** @param {MessageEvent} event */
  const take = ({ data }) => (data === "back" ? missed() : changed(data));
  const address = new URL("news_worker.js", import.meta.url);
  // Where browsers have no shared workers, each tab has a stream of its own.
  if (!("SharedWorker" in globalThis)) return followAlone(changed, missed);
  const { port } = new SharedWorker(address, { type: "module", name: "news" });
  port.onmessage = take;
  addEventListener("pagehide", () => port.postMessage("gone"));
}

/**
 * @param {(news: News) => void} changed
 * @param {() => void} missed
 */
function followAlone(changed, missed) {
  const stream = new EventSource("/api/events");
  let isBack = false;
  stream.onmessage = (event) => changed(JSON.parse(event.data));
  stream.onopen = () => {
    if (isBack) missed();
    isBack = true;
  };
}
