/** Which form or mesh the surface is judged on, and of how many cells a form is made where that can be chosen. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { tell } from "moth/base/notices.js";
import { kindOf } from "moth/stage/forms.js";
import { BY_DISTANCE } from "moth/stage/levels.js";

/** @typedef {import("../../types.d.ts").MeshRead} MeshRead */
/** @typedef {import("../../types.d.ts").Operation} Operation */

/** What a choice of a mesh begins with; ids of forms have no such sign in them. */
const MESH = "mesh ";

export class FormChoice {
  /**
   * @param {import("../model/model.js").GraphModel} staged
   * @param {import("../../stage/stage.js").Stage} stage
   */
  constructor(staged, stage) {
    this.stage = stage;
    this.staged = staged;
    this.select = byId("form");
    this.cells = byId("cells");
    this.meshes = h("optgroup", { label: "Meshes" });
    /** The form that is shown, and the mesh in its place. */
    this.key = "";
    /** @type {MeshRead | null} */
    this.mesh = null;
    this.select.addEventListener("change", () => void this.#choose(this.select.value));
    this.cells.addEventListener("change", () => void this.#choose(`${this.select.value}:${this.cells.value || "-"}`));
    this.level = byId("level");
    this.level.addEventListener("change", () => {
      const { value } = this.level;
      stage.setLevel(value === BY_DISTANCE ? value : Number(value)).catch(tell);
    });
    this.show(this.select.dataset.form ?? this.select.value, null);
    const list = () => void this.#list().catch(tell);
    followNews((news) => news.mesh && list(), list);
    list();
  }

  /** Lists the meshes of the project, in their order. */
  async #list() {
    const { meshes } = await getJson("/api/meshes");
    this.meshes.replaceChildren(
      ...meshes.map((/** @type {MeshRead} */ { id, name }) => h("option", { value: MESH + id }, name)),
    );
    this.meshes.remove();
    if (meshes.length) this.select.append(this.meshes);
    this.#tell();
  }

  /** Asks the graph, which may refuse: then what was chosen before stands there again. @param {string} key */
  async #choose(key) {
    const mesh = key.startsWith(MESH) ? key.slice(MESH.length) : "";
    const { document } = this.staged.state;
    /** @type {Operation[]} */
    const operations = [];
    if (mesh !== document.mesh) operations.push({ op: "set_mesh", value: mesh });
    if (!mesh && key !== document.form) operations.push({ op: "set_form", value: key });
    if (operations.length) await this.staged.editAll(operations, "put it on another form");
    this.#tell();
  }

  /**
   * @param {string} key as the graph has it
   * @param {MeshRead | null} mesh in its place
   */
  show(key, mesh) {
    if (key === this.key && mesh?.drawn === this.mesh?.drawn) return;
    [this.key, this.mesh] = [key, mesh];
    this.#tell();
    this.stage.setForm(key, mesh).catch(tell);
  }

  /** @param {MeshRead["levels"]} levels */
  #listLevels(levels) {
    byId("level-field").hidden = !levels.length;
    const options = levels.map(({ triangles }, at) =>
      h("option", { value: String(at + 1) }, `Level ${at + 1}, ${triangles.toLocaleString("en")} triangles`),
    );
    this.level.replaceChildren(
      h("option", { value: "0" }, "Full mesh"),
      h("option", { value: BY_DISTANCE }, "Level by the distance"),
      ...options,
    );
    const chosen = String(this.stage.level);
    this.level.value = [...this.level.options].some(({ value }) => value === chosen) ? chosen : "0";
  }

  #tell() {
    const [kind, told] = [kindOf(this.key), this.key.split(":")[1]];
    const choice = this.mesh ? null : this.stage.settings.cells[kind];
    this.select.value = this.mesh ? MESH + this.mesh.id : kind;
    byId("cells-field").hidden = !choice;
    this.#listLevels(this.mesh?.levels ?? []);
    if (!choice) return;
    Object.assign(this.cells, { min: choice.low, max: choice.high, value: told ?? choice.default });
  }
}
