/** Shared by all tabs of a browser: one stream of news, handed to each of them. */

/** @type {Set<MessagePort>} */
const tabs = new Set();
const stream = new EventSource("/api/events");
let isBack = false;

/** @param {unknown} message */
const tell = (message) => {
  for (const tab of tabs) tab.postMessage(message);
};

stream.onmessage = (event) => tell(JSON.parse(event.data));
// What happened while the stream was down is not told again: the tabs look for themselves.
stream.onopen = () => {
  if (isBack) tell("back");
  isBack = true;
};

/** @param {MessageEvent} event */
const joined = (event) => {
  const [tab] = event.ports;
  tabs.add(tab);
  tab.onmessage = () => tabs.delete(tab);
};
addEventListener("connect", /** @type {EventListener} */ (joined));
