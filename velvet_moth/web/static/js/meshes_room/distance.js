/** The levels of detail of a mesh: asked for, looked at over the distance, and what of each channel they lose. */
import { h } from "moth/base/dom.js";
import { numberText, numbersField } from "moth/fields/fields.js";
import { choiceField } from "moth/stacks/step_fields.js";
import { BY_DISTANCE } from "moth/stage/levels.js";

/** @typedef {import("../types.d.ts").MeshFacts} MeshFacts */
/** @typedef {MeshFacts["levels"][number]} MeshLevel */
/** @typedef {import("../types.d.ts").LevelWanted} LevelWanted */
/** @typedef {import("./steps.js").MeshStackView} MeshStackView */

const MOST = 5;
/** Each new level has this share of the triangles of the one before. */
const STEP = 0.4;
const percent = (/** @type {number} */ share) => `${numberText(share * 100)} %`;

export class Distance {
  /**
   * @param {HTMLElement} place
   * @param {import("../stage/stage.js").Stage} stage
   * @param {MeshStackView} view the stack that the levels belong to
   * @param {{ facts: () => MeshFacts | null, lossOf: (level: number, channel: string) => void, toTexture: (channel: string) => void }} about
   */
  constructor(place, stage, view, about) {
    this.place = place;
    this.stage = stage;
    this.view = view;
    this.about = about;
    this.range = h("input", { type: "range", min: 0, max: 1, step: 0.002, "aria-label": "Distance of the eye" });
    this.range.addEventListener("input", () => this.#go(Number(this.range.value)));
    this.status = h("span", { class: "mono quiet", role: "status" });
    stage.addEventListener("drawn", () => this.#tell());
  }

  /** The nearest and the farthest the eye goes here, metres. */
  get #reach() {
    const near = this.stage.firstView.distance * this.stage.largest;
    return [near * 0.5, near * 30];
  }

  /** @param {number} share of the way, which grows as the distance does: 0 is near */
  #go(share) {
    const [near, far] = this.#reach;
    this.stage.goTo(near * (far / near) ** share);
  }

  #tell() {
    const { stage } = this;
    if (this.place.hidden || !stage.brought) return;
    const [near, far] = this.#reach;
    const distance = stage.camera.position.distanceTo(stage.controls.target);
    const share = Math.log(distance / near) / Math.log(far / near);
    if (document.activeElement !== this.range) this.range.value = String(share);
    const size = Math.min(1, stage.sizeOnScreen);
    const level = stage.levelDrawn ? `level ${stage.levelDrawn}` : "the full mesh";
    this.status.textContent = `${numberText(distance)} m · ${percent(size)} of the picture's height · ${level}`;
    this.range.ariaValueText = this.status.textContent;
  }

  draw() {
    const facts = this.about.facts();
    const { stack } = this.view;
    if (!facts || !stack) return this.place.replaceChildren();
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const made = facts.levels;
    const shown = String(this.stage.level);
    /** @type {[string, string][]} */
    const choices = [
      [BY_DISTANCE, "by the distance"],
      ["0", `the full mesh, ${facts.mesh.triangles.toLocaleString("en")} triangles`],
      ...made.map(
        (level, at) =>
          /** @type {[string, string]} */ ([
            String(at + 1),
            `level ${at + 1}, ${level.triangles.toLocaleString("en")} triangles`,
          ]),
      ),
    ];
    const choose = (/** @type {string} */ key) =>
      void this.stage.setLevel(key === BY_DISTANCE ? BY_DISTANCE : Number(key)).then(() => this.#tell());
    this.place.replaceChildren(
      h(
        "p",
        { class: "quiet" },
        "Simpler meshes for larger distances, made of the full one when it is baked. Where “shown below” is 0, the error of the form decides.",
      ),
      h(
        "label",
        { class: "setting" },
        h("span", {}, "Drawn"),
        choiceField(choices, shown, "Level drawn", "drawn", choose),
      ),
      h("label", { class: "setting" }, h("span", {}, "Distance"), this.range),
      this.status,
      h(
        "ol",
        { class: "levels" },
        stack.levels.map((level, at) => this.#level(level, at, made[at])),
      ),
      h(
        "div",
        { class: "maker-head" },
        this.#button("Add a level", () => this.#set([...stack.levels, this.#next()]), stack.levels.length >= MOST),
        this.#button("Bake", () => void this.view.make(), !this.view.isChanged, "chief"),
      ),
      ...this.#weights(facts),
    );
    this.#tell();
    if (focus)
      /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-focus="${CSS.escape(focus)}"]`))?.focus();
  }

  /**
   * @param {string} words
   * @param {() => void} act
   * @param {boolean} [off]
   * @param {string} [more]
   */
  #button(words, act, off = false, more = "") {
    const focus = { focus: `distance ${words}` };
    return h(
      "button",
      { type: "button", class: `button small ${more}`, onclick: act, disabled: off, data: focus },
      words,
    );
  }

  #next() {
    const last = this.view.stack?.levels.at(-1);
    return { share: Number(((last?.share ?? 1) * STEP).toPrecision(2)), screen: 0 };
  }

  /** @param {LevelWanted[]} levels */
  #set(levels) {
    return this.view.edit({ op: "set_levels", levels });
  }

  /**
   * @param {LevelWanted} level as it is asked for
   * @param {number} at
   * @param {MeshLevel | undefined} made
   */
  #level(level, at, made) {
    const levels = this.view.stack?.levels ?? [];
    const put = (/** @type {object} */ change) => void this.#set(levels.with(at, { ...level, ...change }));
    const field = (
      /** @type {string} */ label,
      /** @type {number} */ value,
      /** @type {"share" | "screen"} */ key,
      /** @type {string} */ words,
    ) =>
      h(
        "label",
        { class: "setting", title: words },
        h("span", {}, label),
        h(
          "span",
          { class: "setting-number" },
          numbersField({
            value: [Number((value * 100).toPrecision(4))],
            label: `${label} of level ${at + 1}, in percent`,
            step: 1,
            key: `level ${at} ${key}`,
            drag: () => {},
            keep: ([v]) => put({ [key]: Math.min(1, Math.max(key === "share" ? 0.0005 : 0, v / 100)) }),
          }),
          h("span", { class: "quiet" }, "%"),
        ),
      );
    const remove = () => void this.#set(levels.filter((_, index) => index !== at));
    return h(
      "li",
      { class: "making-step" },
      h(
        "div",
        { class: "step-head" },
        h("strong", { class: "flex-1" }, `Level ${at + 1}`),
        this.#button(`Remove level ${at + 1}`, remove),
      ),
      field("Triangles", level.share, "share", "How many of the full mesh's triangles are left"),
      field(
        "Shown below",
        level.screen ?? 0,
        "screen",
        "The size on screen below which it is shown; 0 finds it by the error of the form",
      ),
      ...(made ? this.#made(made, at) : [h("p", { class: "quiet" }, "Not baked yet.")]),
    );
  }

  /**
   * @param {MeshLevel} made
   * @param {number} at
   */
  #made({ triangles, error, screen, losses }, at) {
    const line = `${triangles.toLocaleString("en")} triangles · off by ${numberText(error * 1000)} mm at most · shown below ${percent(screen)}`;
    const soften = (/** @type {string} */ channel) => async () => {
      if (await this.view.model?.ask("soften", { channel, level: at })) await this.view.make();
    };
    return [
      h("p", { class: "quiet" }, line),
      losses.length
        ? h(
            "table",
            { class: "channels" },
            h(
              "thead",
              {},
              h(
                "tr",
                {},
                ["", "loses", "99 % below", ""].map((word) => h("th", { scope: "col" }, word)),
              ),
            ),
            h(
              "tbody",
              {},
              losses.map(({ channel, rms, most }) =>
                h(
                  "tr",
                  {},
                  h("th", { scope: "row" }, channel),
                  h("td", { class: "mono" }, rms.toFixed(3)),
                  h("td", { class: "mono" }, most.toFixed(3)),
                  h("td", {}, this.#look(channel, at)),
                ),
              ),
            ),
          )
        : null,
      ...losses
        .filter(({ words }) => words)
        .map(({ channel, words, mend }) =>
          h(
            "div",
            { class: "loss" },
            h("p", {}, words),
            mend ? this.#button(mend, soften(channel)) : null,
            this.#button("Keep it in a texture", () => this.about.toTexture(channel)),
          ),
        ),
    ];
  }

  /** @param {string} channel @param {number} at */
  #look(channel, at) {
    const act = () => this.about.lossOf(at, channel);
    const label = `Look at what ${channel} loses at level ${at + 1}`;
    return h("button", { type: "button", class: "button small", "aria-label": label, onclick: act }, "Look");
  }

  /** @param {MeshFacts} facts */
  #weights({ carried }) {
    const weights = this.view.stack?.weights ?? {};
    const places = Object.keys(carried);
    if (!places.length || !this.view.stack?.levels.length) return [];
    return [
      h("h3", { class: "eyebrow" }, "How much a channel counts"),
      ...places.map((channel) =>
        h(
          "label",
          { class: "setting" },
          h("span", {}, carried[channel] || channel),
          numbersField({
            value: [weights[channel] ?? 1],
            label: `How much ${channel} counts`,
            step: 0.5,
            key: `weight ${channel}`,
            drag: () => {},
            keep: ([v]) =>
              void this.view.edit({ op: "set_channel_weight", channel, weight: Math.min(100, Math.max(0, v)) }),
          }),
        ),
      ),
    ];
  }
}
