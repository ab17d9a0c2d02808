/** The steps of a stack in order, what is set on the one that is open, and how another one is added. */
import { menu } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { saveFile } from "moth/base/downloads.js";
import { tell } from "moth/base/notices.js";
import { StepFields } from "moth/stacks/step_fields.js";

/** @typedef {import("../types.d.ts").StackStepState} StackStepState */
/** @typedef {import("../types.d.ts").StepKind} StepKind */

/**
 * What a room has around its steps. `fewest` is how many steps a stack has at least, `named` whether it has a name of its own.
 * @typedef {import("./step_fields.js").OwnFields & {
 *   head: () => (HTMLElement | null)[],
 *   make: { words: string, now: string, done: string },
 *   save: string,
 *   fewest: number,
 *   named: boolean,
 *   refreshed?: () => void,
 *   file?: () => Promise<unknown>,
 * }} OwnParts
 */

export class StepList {
  /**
   * @param {HTMLElement} place
   * @param {import("./stack_view.js").StackView<any, any>} view
   * @param {OwnParts} own
   */
  constructor(place, view, own) {
    this.place = place;
    this.view = view;
    this.own = own;
    this.fields = new StepFields(view, own);
    this.head = h("div", { class: "maker-head" });
    this.steps = h("ol", { class: "steps", "aria-label": "Steps, the first at the top" });
    // It stays while the rest is drawn again, so that a press on it always counts.
    this.adding = h(
      "button",
      { type: "button", class: "button small", id: "add-step", onclick: () => this.#add(), data: { focus: "add" } },
      "Add a step",
    );
    view.addEventListener("changed", () => this.draw());
    view.addEventListener("seen", () => this.#refresh());
    place.addEventListener("keydown", (event) => this.#key(event));
  }

  draw() {
    const { stack, model } = this.view;
    if (!stack || !model) return this.place.replaceChildren();
    const typing = typingIn(this.place);
    const name = h("input", {
      class: "field",
      value: stack.name,
      maxlength: 80,
      "aria-label": "Name of the stack",
      data: { focus: "name" },
    });
    name.addEventListener("change", () => {
      if (name.value.trim()) void this.view.edit({ op: "set_stack_name", name: name.value });
      else name.value = stack.name;
    });
    const { make, save } = this.own;
    this.head.replaceChildren(
      ...(this.own.named ? [name] : []),
      smallButton("Undo", () => void model.undo(), !model.state.undo, model.state.undo),
      smallButton("Redo", () => void model.redo(), !model.state.redo, model.state.redo),
      smallButton("Save stack", () => void this.#save().catch(tell), false, save),
      ...this.own.head().filter((part) => part !== null),
      h(
        "button",
        {
          type: "button",
          class: "button small chief",
          disabled: !this.view.isChanged,
          title: this.view.isChanged ? make.now : make.done,
          onclick: () => void this.view.make(),
          data: { focus: "make" },
        },
        make.words,
      ),
    );
    this.steps.replaceChildren(...this.view.steps.map((step, at) => this.#row(step, at)));
    if (!this.adding.isConnected) this.place.replaceChildren(this.head, this.steps, this.adding);
    this.#refresh();
    typing();
  }

  /** The stack as a file, which ./moth makes without a browser. */
  async #save() {
    const stack = await (this.own.file?.() ?? this.view.stack);
    const file = new Blob([JSON.stringify(stack, null, 1)], { type: "application/json" });
    saveFile(file, "stack.json");
  }

  /** What a look has shown, without drawing again what may have the keyboard. */
  #refresh() {
    for (const row of this.place.querySelectorAll("[data-step]")) {
      const id = /** @type {HTMLElement} */ (row).dataset.step ?? "";
      const picture = /** @type {HTMLImageElement} */ (row.querySelector("img"));
      const small = this.view.seen.small[id];
      picture.hidden = !small;
      if (small && picture.src !== small) picture.src = small;
      const wrong = /** @type {HTMLElement} */ (row.querySelector(".step-wrong"));
      wrong.textContent = this.view.seen.problems[id] ?? "";
      wrong.hidden = !wrong.textContent;
    }
    this.own.refreshed?.();
  }

  /**
   * @param {StackStepState} step
   * @param {number} at
   */
  #row(step, at) {
    const kind = /** @type {StepKind} */ (this.view.kinds.get(step.step));
    const isOpen = step.id === this.view.chosen;
    const move = (/** @type {number} */ by) => void this.view.edit({ op: "move_step", id: step.id, place: at + by });
    const small = (
      /** @type {string} */ words,
      /** @type {string} */ sign,
      /** @type {() => void} */ act,
      /** @type {boolean} */ off,
    ) =>
      h(
        "button",
        {
          type: "button",
          class: "button small",
          "aria-label": `${words}: ${kind.name}`,
          title: words,
          disabled: off,
          onclick: act,
          data: { focus: `${words} ${step.id}` },
        },
        sign,
      );
    const count = this.view.steps.length;
    return h(
      "li",
      { class: isOpen ? "making-step open" : "making-step", data: { step: step.id } },
      h(
        "div",
        { class: "step-head" },
        h(
          "button",
          {
            type: "button",
            class: "step-name",
            "aria-expanded": String(isOpen),
            onclick: () => this.view.choose(step.id),
            data: { focus: `step ${step.id}` },
          },
          h("img", { alt: "", width: 34, height: 34 }),
          h("span", {}, step.values.name ? `${kind.name}: ${step.values.name}` : kind.name),
        ),
        small("Move up", "↑", () => move(-1), at === 0),
        small("Move down", "↓", () => move(1), at === count - 1),
        small("Remove", "×", () => void this.view.remove(step.id), count <= this.own.fewest),
      ),
      h("p", { class: "step-wrong", hidden: true }),
      isOpen ? this.fields.of(step, kind, at) : null,
    );
  }

  #add() {
    const groups = this.view.settings.groups.map(
      (group) => /** @type {[string, () => void]} */ ([`${group} …`, () => this.#addOf(group)]),
    );
    menu(this.adding, groups);
  }

  /** @param {string} group */
  #addOf(group) {
    const kinds = this.view.settings.steps.filter((kind) => kind.group === group);
    menu(
      this.adding,
      kinds.map((kind) => [kind.name, () => void this.view.add(kind.key)]),
    );
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key === "z" && !event.shiftKey) void this.view.model?.undo();
    else if (key === "y" || (key === "z" && event.shiftKey)) void this.view.model?.redo();
    else if (key === "s") void this.view.make();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}

/**
 * @param {string} words
 * @param {() => void} act
 * @param {boolean} [off]
 * @param {string} [title]
 */
export const smallButton = (words, act, off = false, title = "") =>
  h(
    "button",
    { type: "button", class: "button small", onclick: act, disabled: off, title, data: { focus: `maker ${words}` } },
    words,
  );

/**
 * What gives the keyboard back to where it is now once a place is drawn again, with what is typed there and not sent.
 * @param {HTMLElement} place
 */
function typingIn(place) {
  const field = /** @type {HTMLInputElement | null} */ (document.activeElement);
  const focus = place.contains(field) ? field?.dataset.focus : undefined;
  const isTyped = field instanceof HTMLInputElement && field.type !== "checkbox" && field.value !== field.defaultValue;
  const typed = isTyped ? field.value : null;
  return () => {
    if (!focus) return;
    const found = /** @type {HTMLInputElement | null} */ (place.querySelector(`[data-focus="${CSS.escape(focus)}"]`));
    found?.focus();
    if (found && typed !== null) found.value = typed;
  };
}
