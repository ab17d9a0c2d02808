/** First-run hints: one at a time in a corner of the graph, and gone for good when told so. */
import { h } from "moth/base/dom.js";
import { keep, kept } from "moth/base/settings.js";

const HINTS = [
  ["Space", "adds a node where the pointer is. Over a wire it goes into the wire."],
  ["Drag", "from a card's right edge to an input or a channel of the dock. Let go over nothing to see what fits."],
  ["S", "shows the selected card on the stage, without any wiring. Again goes back to the surface."],
  ["◇", "beside a value makes it a parameter, which every variant can set for itself."],
  ["Ctrl+Z", "takes back whatever it was. H shows the whole history, and keeps versions by name."],
  ["?", "lists every key and gesture."],
];

/** @param {HTMLElement} pane */
export function showHints(pane) {
  let at = kept("hint", 0);
  if (at >= HINTS.length) return;
  const box = h("aside", { id: "hints", class: "over-pane", "aria-label": "Hint" });
  const end = () => {
    at = HINTS.length;
    keep("hint", at);
    box.remove();
    pane.focus({ preventScroll: true });
  };
  const show = () => {
    const [key, words] = HINTS[at];
    const isLast = at === HINTS.length - 1;
    box.replaceChildren(
      h("p", {}, h("kbd", {}, key), ` ${words}`),
      h(
        "div",
        { class: "row" },
        h("span", { class: "mono quiet" }, `${at + 1}/${HINTS.length}`),
        isLast
          ? null
          : h(
              "button",
              { type: "button", class: "button small", onclick: () => ((at += 1), keep("hint", at), show()) },
              "Next",
            ),
        h("button", { type: "button", class: "button small", onclick: end }, isLast ? "Good" : "No more hints"),
      ),
    );
  };
  show();
  pane.append(box);
}
