/** Problems as sentences, one at a time, with their mends. */
import { byId, h } from "moth/base/dom.js";
import { mendButton } from "moth/workbench/shared/mends.js";

const RANK = { error: 0, warning: 1, may: 2, note: 3 };
const WORDS = { error: "Wrong", warning: "Look here", may: "May happen", note: "Note" };

export class Problems {
  /**
   * @param {import("../model/model.js").GraphModel} model
   * @param {import("../graph/graph_pane.js").GraphPane} pane
   */
  constructor(model, pane) {
    this.model = model;
    this.pane = pane;
    this.at = 0;
    model.addEventListener("state", () => this.show());
    pane.pane.addEventListener("selection", () => {
      this.at = 0;
      this.show();
    });
  }

  show() {
    const [chosen] = this.pane.selection;
    const all = Object.values(this.model.state.problems)
      .flat()
      .sort(
        (a, b) =>
          Number(b.node === chosen) - Number(a.node === chosen) ||
          RANK[a.severity] - RANK[b.severity] ||
          (a.node < b.node ? -1 : 1),
      );
    const bar = byId("problems");
    bar.hidden = !all.length;
    if (!all.length) return;
    this.at = (this.at + all.length) % all.length;
    const problem = all[this.at];
    const turn = (/** @type {number} */ step) => {
      this.at += step;
      this.show();
    };
    bar.className = problem.severity;
    bar.replaceChildren(
      h(
        "button",
        { class: "problem-where", type: "button", onclick: () => this.pane.focus(problem.node), title: problem.where },
        problem.node === "dock" ? "Dock" : this.model.nameOf(problem.node),
      ),
      h("p", {}, h("span", { class: "severity" }, WORDS[problem.severity]), " ", problem.what),
      ...problem.mends.map((mend) => mendButton(this.model, mend)),
      all.length > 1
        ? h(
            "span",
            { class: "turner" },
            h("button", { type: "button", "aria-label": "Previous problem", onclick: () => turn(-1) }, "‹"),
            h("span", { class: "mono" }, `${this.at + 1}/${all.length}`),
            h("button", { type: "button", "aria-label": "Next problem", onclick: () => turn(1) }, "›"),
          )
        : "",
    );
  }
}
