/** The dock: the channels of the surface, always in view, where the graph ends. */
import { byId, h } from "moth/base/dom.js";
import {
  isFilled,
  isSerious,
  isUsed,
  moreButton,
  parameterButton,
  shortText,
  unplugButton,
  valueField,
} from "moth/workbench/graph/cards/cards.js";

/** @param {import("../../model/model.js").GraphModel} model */
export function showDock(model) {
  if (model.touched && !model.touched.has("dock")) return;
  const list = byId("dock-channels");
  const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
  const dock = model.nodes.get("dock");
  const inputs = model.typeOf("dock").inputs.filter((port) => isUsed(model, "dock", port) || model.hasMore.has("dock"));
  const rows = inputs.map((port) => {
    const wired = dock?.wires?.[port.key];
    const problem = model.problemsOf("dock").find((p) => p.input === port.key && isSerious(p));
    // The back is no channel of the surface: what is wired to it is seen, or the surface itself.
    const isBack = port.type === "surface" && port.key !== "surface";
    const source = isBack ? (wired ? `${wired[0]}.${wired[1]}` : "dock.surface") : `dock.${port.key}`;
    const swatch = model.state.swatches[source];
    const from = wired ? model.nameOf(wired[0]) : isFilled(model, "dock", port) ? "by surface" : "";
    const pinned = model.pinned.get(`dock.${port.key}`);
    const shownKey = source === "dock.surface" ? "" : source;
    return h(
      "li",
      {
        class: `channel ${problem?.severity ?? ""} ${wired ? "wired" : ""}`,
        data: { input: port.key, node: "dock" },
        title: port.words,
      },
      h("button", { type: "button", class: "pin in", tabindex: -1, "aria-label": `${port.name} of the dock` }),
      h(
        "button",
        {
          type: "button",
          class: "look",
          "aria-label": `Show ${port.name} on stage`,
          "aria-pressed": String(model.shown === shownKey),
          data: { focus: `dock.${port.key}.look` },
          onclick: () => void model.setShown(model.shown === shownKey ? "" : shownKey),
        },
        swatch ? h("img", { src: swatch.png, alt: "" }) : h("span", { class: "no-swatch" }),
      ),
      h(
        "span",
        { class: "channel-name" },
        port.name,
        from ? h("small", {}, from) : null,
        pinned ? h("small", { class: "pinned mono", title: "At the pin" }, shortText(pinned)) : null,
      ),
      wired || isFilled(model, "dock", port) || port.type === "surface"
        ? null
        : [valueField(model, "dock", port), parameterButton(model, "dock", port)],
      wired ? unplugButton(model, "dock", port) : null,
    );
  });
  list.replaceChildren(...rows, moreButton(model, "dock") ?? "");
  if (focus?.startsWith("dock."))
    /** @type {HTMLElement | null} */ (list.querySelector(`[data-focus="${focus}"]`))?.focus();
}
