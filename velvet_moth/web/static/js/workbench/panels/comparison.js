/** Comparing the graph with a version of it: marked cards, and both pictures side by side. */
import { getJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { opened } from "moth/base/layers.js";
import { tell } from "moth/base/notices.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/**
 * @typedef {object} Found
 * @property {{ id: number, name: string, stamp: string }} version
 * @property {string} stamp
 * @property {string[]} added
 * @property {{ node: string, name: string }[]} removed
 * @property {Record<string, string[]>} changed what is different, by node
 * @property {string[]} elsewhere what is different besides nodes
 */

/** @param {string} stamp */
const stamped = (stamp) => new URLSearchParams({ r: stamp });

/** @param {number} count @param {string} what */
const counted = (count, what) => (count ? `${count} ${what}` : "");

export class Comparison {
  /** @param {GraphPane} pane */
  constructor(pane) {
    this.pane = pane;
    /** @type {Found | null} */
    this.found = null;
    this.at = -1;
    this.panel = h("section", { id: "comparison", class: "over-pane", "aria-label": "Comparison", hidden: true });
    pane.pane.append(this.panel);
    pane.pane.addEventListener("shown", () => this.#follow());
  }

  /** @param {number} version */
  async open(version) {
    try {
      this.found = await getJson(`${this.pane.model.url}/versions/${version}/compare`);
      this.at = -1;
      this.#show();
    } catch (error) {
      tell(error);
    }
  }

  close() {
    this.found = null;
    this.panel.hidden = true;
    this.#mark();
    this.pane.pane.focus({ preventScroll: true });
  }

  /** The comparison stays true while the graph is edited. */
  #follow() {
    const { found } = this;
    if (!found) return;
    this.#mark();
    if (found.stamp !== this.pane.model.state.stamp) void this.open(found.version.id);
  }

  #mark() {
    const { found } = this;
    for (const [id, { element }] of this.pane.cards) {
      const isAdded = !!found?.added.includes(id);
      const changes = found?.changed[id];
      element.classList.toggle("is-added", isAdded);
      element.classList.toggle("is-changed", !!changes);
      element.querySelector(".difference")?.remove();
      if (isAdded || changes) {
        const words = isAdded ? "added" : "changed";
        element.append(h("span", { class: "difference", title: changes?.join("\n") }, words));
      }
    }
  }

  #show() {
    const { found } = this;
    if (!found) return;
    const { version, added, removed, changed, elsewhere } = found;
    const { model } = this.pane;
    const differing = [...added, ...Object.keys(changed)].filter((id) => this.pane.cards.has(id));
    const counts = [
      counted(added.length, "added"),
      counted(removed.length, "removed"),
      counted(Object.keys(changed).length, "changed"),
    ].filter(Boolean);
    const lines = [
      ...removed.map(({ name }) => `removed ${name}`),
      ...Object.entries(changed).flatMap(([id, words]) =>
        words.map((w) => (id === "dock" ? `Dock: ${w}` : `${model.nodes.has(id) ? model.nameOf(id) : id}: ${w}`)),
      ),
      ...elsewhere,
    ];
    /** @param {number} by */
    const step = (by) => {
      this.at = (Math.max(this.at, by > 0 ? -1 : 0) + by + differing.length) % differing.length;
      this.pane.unfoldFor(differing[this.at]);
      this.pane.select([differing[this.at]]);
      this.pane.reveal(differing[this.at]);
    };
    const picture = (/** @type {string} */ src, /** @type {string} */ words) =>
      h("figure", {}, h("img", { src, alt: `Picture: ${words}`, width: 168, height: 105 }), h("figcaption", {}, words));
    this.panel.replaceChildren(
      h(
        "header",
        {},
        h(
          "p",
          {},
          h("strong", {}, `Since “${version.name}”: `),
          counts.join(", ") || (elsewhere.length ? "only what lies around the cards" : "nothing is different"),
        ),
        differing.length > 1
          ? h(
              "span",
              { class: "turner" },
              h("button", { type: "button", "aria-label": "Previous difference", onclick: () => step(-1) }, "‹"),
              h("button", { type: "button", "aria-label": "Next difference", onclick: () => step(1) }, "›"),
            )
          : null,
        h(
          "button",
          { type: "button", class: "button small", "aria-label": "Close comparison", onclick: () => this.close() },
          "×",
        ),
      ),
      h(
        "div",
        { class: "side-by-side" },
        picture(`${model.url}/versions/${version.id}/picture.png?${stamped(version.stamp)}`, version.name),
        picture(`${model.url}/picture.png?${stamped(found.stamp)}`, "Now"),
        lines.length
          ? h(
              "ul",
              { class: "difference-list", tabindex: 0, "aria-label": "What differs" },
              lines.map((line) => h("li", {}, line)),
            )
          : null,
      ),
    );
    if (this.panel.hidden) {
      opened(
        () => !this.panel.hidden,
        () => this.close(),
      );
    }
    this.panel.hidden = false;
    this.#mark();
  }
}
