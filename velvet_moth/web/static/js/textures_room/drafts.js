/** The stacks that have made no texture yet: opened again, deleted, and brought back. */
import { getJson, postJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";

export class Drafts {
  /**
   * @param {HTMLElement} place
   * @param {() => void} show shows what the address names
   */
  constructor(place, show) {
    this.place = place;
    this.show = show;
    /** @type {import("../types.d.ts").StackInfo[]} */
    this.begun = [];
  }

  async load() {
    /** @type {import("../types.d.ts").Stacks} */
    const { stacks } = await getJson("/api/recipes");
    this.begun = stacks.filter((stack) => !stack.has_textures);
    this.draw();
  }

  /**
   * A stack was edited or made.
   * @param {import("../types.d.ts").RecipeState} state
   */
  follow({ id, stack: edited, textures }) {
    const others = this.begun.filter((stack) => stack.id !== id);
    const has = Object.keys(textures).length > 0;
    const info = { id, name: edited.name, steps: edited.steps.length, has_textures: has };
    this.begun = has || !id ? others : [...others, info].sort((a, b) => a.id - b.id);
    this.draw();
  }

  draw() {
    this.place.hidden = !this.begun.length;
    this.place.replaceChildren(
      h("h2", {}, "Stacks without textures"),
      ...this.begun.map(({ id, name, steps }) =>
        h(
          "button",
          { type: "button", class: "draft", onclick: () => this.open(id) },
          h("span", {}, name),
          h("span", { class: "quiet" }, `${steps} step${steps === 1 ? "" : "s"}`),
        ),
      ),
    );
  }

  /** @param {number} id */
  open(id) {
    history.pushState({}, "", id ? `/textures?stack=${id}` : "/textures");
    this.show();
  }

  /**
   * @param {number} id
   * @param {string} name
   */
  async remove(id, name) {
    await postJson(`/api/recipes/${id}`, {}, "DELETE");
    const back = async () => {
      await postJson(`/api/recipes/${id}/restore`);
      await this.load();
      this.open(id);
    };
    notice(`Deleted the stack ${name}.`, { action: "Undo", act: () => void back(), stay: true });
    await this.load();
    this.open(0);
  }
}
