/** How a mesh is looked at: lit, by one channel, by its normals, as the layout of its UVs, or as a step or a loss shows it. */
import { getJson } from "moth/base/api.js";
import { byId, h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { FlowView } from "moth/flow/flow_view.js";
import { lossesOf, numbersOf, seenAddress } from "moth/meshes_room/steps.js";
import { geometryAddress } from "moth/stage/forms.js";

/** @typedef {import("../types.d.ts").MeshFacts} MeshFacts */
/** @typedef {import("./steps.js").MeshStackView} MeshStackView */

/** Ways of looking at a mesh: a look of the stage, the layout of its UVs, or the numbers of the step that is open. */
const WAYS = [
  ["step", "Step"],
  ["lit", "Lit"],
  ["normals", "Normals"],
  ["facing_side", "Sides"],
  ["uv_checker", "Checker"],
  ["layout", "UVs"],
];
/** The look at one channel of the vertex data. @param {string} place such as "second red" */
export const lookAt = (place) => `vertex_${place.replaceAll(" ", "_")}`;

export class Looking {
  /**
   * @param {import("../stage/stage.js").Stage} stage
   * @param {import("./layout.js").Layout} layout
   * @param {MeshStackView} steps
   * @param {Record<string, string>} words what each look of the stage shows
   * @param {() => MeshFacts | null} facts of the mesh that is looked at
   */
  constructor(stage, layout, steps, words, facts) {
    this.stage = stage;
    this.layout = layout;
    this.steps = steps;
    this.words = words;
    this.facts = facts;
    this.way = "lit";
    /** Whether what is painted is seen as a mask over the form, or by itself in grey. */
    this.isMasking = true;
    /** How many answers about the open step are on their way to the stage. */
    this.underWay = 0;
    this.flow = new FlowView(stage, {
      url: () => `/api/meshes/${facts()?.mesh.id}/stack`,
      directions: () => ({ stack: steps.model?.stack, step: steps.chosen }),
      restore: () => (this.way === "step" ? this.shadeAs("lit").catch(tell) : undefined),
    });
  }

  /**
   * Looks at it another way.
   * @param {string} key
   */
  async look(key) {
    this.way = key;
    if (key !== "step") this.flow.hide();
    byId("ways").replaceChildren(
      ...WAYS.filter(([one]) => one !== "step" || this.steps.steps.length).map(([one, words]) =>
        h(
          "button",
          {
            type: "button",
            class: "button small",
            "aria-pressed": String(one === this.way),
            title: this.words[one] ?? "",
            onclick: () => void this.look(one).catch(tell),
          },
          words,
        ),
      ),
    );
    this.drawChannels();
    const isLayout = this.way === "layout";
    byId("layout").hidden = !isLayout;
    byId("stage").style.visibility = isLayout ? "hidden" : "";
    if (this.way === "step") return this.showStep();
    if (this.way === "loss") return;
    const facts = this.facts();
    if (facts) await this.stage.setForm("mesh", facts.mesh);
    if (this.way !== key) return;
    if (isLayout) return this.layout.show(this.stage.mesh.geometry, byId("outlines").ariaPressed === "true");
    await this.shadeAs(this.way);
  }

  /** The channels of the vertex data that can be looked at, each with what it means. */
  drawChannels() {
    const carried = this.facts()?.carried ?? {};
    const places = Object.keys(carried);
    const option = (/** @type {string} */ place) => {
      const words = carried[place] ? `${place}: ${carried[place]}` : place;
      return h("option", { value: lookAt(place), selected: this.way === lookAt(place) }, words);
    };
    byId("channel").replaceChildren(h("option", { value: "" }, "Channel …"), ...places.map(option));
  }

  /** @param {string} key of a look */
  async shadeAs(key) {
    const asking = this.way;
    const { shader, values } = await getJson(`/api/meshes/shader/${key}`);
    if (this.way === asking) await this.stage.setShader(shader, new Float32Array(values));
  }

  /** How the numbers of the step that is open are seen. */
  get #numbersLook() {
    const open = this.steps.steps.find(({ id }) => id === this.steps.chosen);
    return open && this.steps.kinds.get(open.step)?.group === "By hand" && this.isMasking
      ? "vertex_mask"
      : "vertex_red";
  }

  get #name() {
    const open = this.steps.steps.find(({ id }) => id === this.steps.chosen);
    return (open && this.steps.kinds.get(open.step)?.name) ?? "";
  }

  /** The step that is open, as it was last looked at: its numbers in grey on the form, or the form by itself. */
  async showStep() {
    this.underWay += 1;
    try {
      await this.#showSeen();
    } finally {
      this.underWay -= 1;
    }
  }

  async #showSeen() {
    const { seen } = this.steps;
    const facts = this.facts();
    if (!facts || !seen.geometry) return;
    const { mesh } = facts;
    const numbers = seen.values ? await numbersOf(mesh.id, seen) : null;
    const isStill = () => this.way === "step" && this.steps.seen === seen && this.facts()?.mesh === mesh;
    if (!isStill()) return;
    const address = seenAddress(mesh.id, seen);
    await this.stage.setForm("mesh", { ...mesh, drawn: `${mesh.drawn} ${seen.geometry}`, address });
    if (!isStill()) return;
    if (numbers && !seen.is_directions) this.paint(numbers);
    if (!numbers || !seen.is_directions) this.flow.hide();
    await this.shadeAs(numbers && !seen.is_directions ? this.#numbersLook : "lit");
    if (!isStill()) return;
    if (numbers && seen.is_directions) await this.flow.show(numbers);
    const range = [seen.low, seen.mean, seen.high].map((value) => value.toFixed(3));
    byId("at-vertex").textContent = numbers
      ? `${this.#name}${seen.is_directions ? ", speed" : ""}: ${range[0]} to ${range[2]}, mean ${range[1]}${roughWords(seen)}`
      : `${seen.vertices.toLocaleString("en")} vertices · ${seen.triangles.toLocaleString("en")} triangles`;
  }

  /**
   * What a level of detail loses of a channel, in grey on the full mesh.
   * @param {number} level
   * @param {string} channel
   */
  async showLoss(level, channel) {
    const facts = this.facts();
    if (!facts) return;
    const { mesh } = facts;
    await this.look("loss");
    const off = await lossesOf(mesh.id, level, channel);
    const address = geometryAddress(mesh);
    // A copy of its own: the numbers are put into its colours.
    await this.stage.setForm("mesh", { ...mesh, drawn: `${mesh.drawn} loss`, address: `${address}?` });
    if (this.way !== "loss" || this.facts()?.mesh !== mesh) return;
    this.paint(off);
    await this.shadeAs("vertex_red");
    byId("at-vertex").textContent = `What level ${level + 1} loses of ${channel}: black nothing, white all.`;
  }

  /** Puts numbers of vertices in the place of their first channel. @param {Float32Array} numbers */
  paint(numbers) {
    const colour = this.stage.mesh.geometry.getAttribute("colour");
    for (let at = 0; at < numbers.length; at += 1) colour.array[at * 4] = numbers[at];
    colour.needsUpdate = true;
  }
}

/** @param {import("../types.d.ts").MeshPreview} seen */
const roughWords = ({ is_rough: isRough, rays }) => (isRough ? ` · looked at with ${rays} rays, baked with all` : "");
