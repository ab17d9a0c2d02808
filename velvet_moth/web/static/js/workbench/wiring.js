/** Making wires: by dragging from a pin, and by keyboard from a list of inputs. */
import { chooseNode, choose } from "moth/workbench/search.js";
import { dye, wire } from "moth/workbench/wires.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("./graph_pane.js").GraphPane} GraphPane */
/** @typedef {{ node: string, output: string }} Output */
/** @typedef {{ node: string, input: string }} Input */

/**
 * @param {GraphModel} model
 * @param {Output} from
 * @param {Input} to
 */
export function doesFit(model, from, to) {
  const given = model.state.types[`${from.node}.${from.output}`];
  const port = model.port(to.node, to.input);
  const taken =
    port.type === "flexible" ? "flexible" : (model.state.input_types[`${to.node}.${to.input}`] ?? port.type);
  return model.settings.fits[given]?.includes(taken) ?? false;
}

/**
 * @param {GraphModel} model
 * @param {Output} from
 * @param {Input} to
 */
export const wireUp = (model, from, to) =>
  model.edit({ op: "wire", node: to.node, input: to.input, from_node: from.node, from_output: from.output });

export class Wiring {
  /**
   * @param {GraphModel} model
   * @param {GraphPane} pane
   */
  constructor(model, pane) {
    this.model = model;
    this.pane = pane;
    document.addEventListener("pointerdown", (event) => this.#begin(event));
  }

  /** @param {PointerEvent} event */
  #begin(event) {
    const pin = event.target instanceof Element ? event.target.closest(".pin") : null;
    if (!(pin instanceof HTMLElement) || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    const { node = "", output } = pin.dataset;
    if (output) return this.#drag(event, { from: { node, output } });
    const row = /** @type {HTMLElement} */ (pin.closest("[data-input]"));
    const to = { node: row.dataset.node ?? "", input: row.dataset.input ?? "" };
    const wired = this.model.nodes.get(to.node)?.wires?.[to.input];
    // A wired input gives its wire away; an empty one looks for a source.
    if (wired) return this.#drag(event, { from: { node: wired[0], output: wired[1] }, taken: to });
    return this.#drag(event, { to });
  }

  /**
   * @param {PointerEvent} start
   * @param {{ from?: Output, to?: Input, taken?: Input }} ends
   */
  #drag(start, ends) {
    let moved = false;
    /** @param {PointerEvent} event */
    const move = (event) => {
      moved ||= Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) > 4;
      if (moved) this.#preview(event, ends);
    };
    /** @param {PointerEvent} event */
    const end = (event) => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
      removeEventListener("keydown", cancel, true);
      this.#clear();
      if (moved && event.type === "pointerup") this.#drop(event, ends);
    };
    /** @param {KeyboardEvent} event */
    const cancel = (event) => {
      if (event.key === "Escape") end(/** @type {any} */ (event));
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
    addEventListener("keydown", cancel, true);
  }

  /** @param {PointerEvent} event */
  #under(event) {
    const element = document.elementFromPoint(event.clientX, event.clientY);
    const row = /** @type {HTMLElement | null} */ (element?.closest("[data-input]") ?? null);
    const pin = /** @type {HTMLElement | null} */ (element?.closest(".pin.out") ?? null);
    const isWirable = row && this.model.port(row.dataset.node ?? "", row.dataset.input ?? "").wirable;
    return {
      row: isWirable ? row : null,
      input: isWirable ? { node: row.dataset.node ?? "", input: row.dataset.input ?? "" } : null,
      output: pin ? { node: pin.dataset.node ?? "", output: pin.dataset.output ?? "" } : null,
      card: /** @type {HTMLElement | null} */ (element?.closest(".card") ?? null),
      isPane: !!element?.closest("#graph-pane"),
    };
  }

  /**
   * @param {PointerEvent} event
   * @param {{ from?: Output, to?: Input }} ends
   */
  #preview(event, ends) {
    this.#clear();
    const under = this.#under(event);
    const pointer = this.pane.view.toWorld(event.clientX, event.clientY);
    const from = ends.from ?? under.output;
    const to = ends.to ?? under.input;
    const start = from ? this.pane.wires.outputPoint(from.node, from.output) : pointer;
    const goal = ends.to ? this.pane.wires.inputPoint(ends.to.node, ends.to.input) : pointer;
    const type = from ? this.model.state.types[`${from.node}.${from.output}`] : "number";
    const fits = !from || !to || doesFit(this.model, from, to);
    const colour = dye(from && this.model.state.swatches[`${from.node}.${from.output}`]?.mean);
    const drawn = wire(start, goal, { type, strands: this.model.settings.strands[type] ?? 1, colour, wrong: !fits });
    drawn.classList.add("preview");
    this.pane.wires.layer.append(drawn);
    under.row?.classList.add(fits ? "fits" : "misfits");
  }

  #clear() {
    for (const old of document.querySelectorAll(".wire.preview")) old.remove();
    for (const row of document.querySelectorAll(".fits, .misfits")) row.classList.remove("fits", "misfits");
  }

  /**
   * @param {PointerEvent} event
   * @param {{ from?: Output, to?: Input, taken?: Input }} ends
   */
  #drop(event, { from, to, taken }) {
    const under = this.#under(event);
    if (to) {
      if (under.output) return void wireUp(this.model, under.output, to);
      if (under.isPane && !under.card) this.#addBefore(to);
      return;
    }
    if (!from) return;
    if (taken && under.input && taken.node === under.input.node && taken.input === under.input.input) return;
    const unplug = taken ? [{ op: "unwire", node: taken.node, input: taken.input }] : [];
    if (under.input) {
      const { node, input } = under.input;
      const join = { op: "wire", node, input, from_node: from.node, from_output: from.output };
      return void this.model.editAll([...unplug, join]);
    }
    if (taken && !under.card) return void this.model.editAll(unplug);
    if (under.isPane && !under.card) this.#addAfter(from);
  }

  /** @param {Output} from */
  #addAfter(from) {
    const given = this.model.state.types[`${from.node}.${from.output}`];
    /** @param {import("../types.d.ts").NodeType} type */
    const first = (type) => type.inputs.find((p) => p.wirable && this.model.settings.fits[given].includes(p.type));
    chooseNode(
      this.model,
      (key) => {
        const id = this.model.freshId(key);
        const port = first(/** @type {any} */ (this.model.kind(key)));
        const wires = port ? { [port.key]: { node: from.node, output: from.output } } : {};
        this.pane.coming = [id];
        void this.model.edit({ op: "add_node", node: { id, type: key, wires } });
      },
      (type) => !!first(type),
    );
  }

  /** @param {Input} to */
  #addBefore(to) {
    const port = this.model.port(to.node, to.input);
    /** @param {import("../types.d.ts").NodeType} type */
    const first = (type) => type.outputs.find((o) => this.model.settings.fits[o.type].includes(port.type));
    chooseNode(
      this.model,
      (key) => {
        const id = this.model.freshId(key);
        const output = first(/** @type {any} */ (this.model.kind(key)))?.key ?? "";
        this.pane.coming = [id];
        void this.model.editAll([
          { op: "add_node", node: { id, type: key } },
          { op: "wire", node: to.node, input: to.input, from_node: id, from_output: output },
        ]);
      },
      (type) => !!first(type),
    );
  }

  /**
   * By keyboard: every input that an output of this node could go to, the fitting ones first.
   * @param {string} node
   */
  chooseTarget(node) {
    const outputs = this.model.typeOf(node).outputs;
    /** @type {(import("./search.js").Choice & { fits: boolean })[]} */
    const choices = [];
    for (const output of outputs) {
      for (const [id, other] of this.model.nodes) {
        if (id === node || this.#isUpstream(id, node)) continue;
        for (const port of this.model.typeOf(id).inputs.filter((p) => p.wirable)) {
          const from = { node, output: output.key };
          const to = { node: id, input: port.key };
          const fits = doesFit(this.model, from, to);
          const wired = other.wires?.[port.key];
          choices.push({
            name: `${outputs.length > 1 ? `${output.name} → ` : ""}${port.name} of ${this.model.nameOf(id)}`,
            note: !fits ? "does not fit as it is" : wired ? `now from ${this.model.nameOf(wired[0])}` : "",
            fits,
            act: () => void wireUp(this.model, from, to),
          });
        }
      }
    }
    choices.sort((a, b) => Number(b.fits) - Number(a.fits));
    choose(`Wire ${this.model.nameOf(node)} to`, "Type the input or the card", (query) => {
      const words = query.toLowerCase().split(/\s+/);
      return choices.filter((c) => words.every((w) => c.name.toLowerCase().includes(w)));
    });
  }

  /**
   * Whether `node` gets anything from `start` upstream, so that a wire back would close a loop.
   * @param {string} start
   * @param {string} node
   */
  #isUpstream(start, node) {
    const todo = [node];
    const seen = new Set();
    while (todo.length) {
      const current = /** @type {string} */ (todo.pop());
      if (current === start) return true;
      if (seen.has(current)) continue;
      seen.add(current);
      todo.push(...Object.values(this.model.nodes.get(current)?.wires ?? {}).map(([source]) => source));
    }
    return false;
  }
}
