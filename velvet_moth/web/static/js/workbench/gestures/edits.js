/** What the keys and menus do to the selected cards; the server's core works out what each means. */
import { askText } from "moth/base/dialogs.js";
import { byId, h } from "moth/base/dom.js";
import { notice } from "moth/base/notices.js";
import { renamingSheet } from "moth/workbench/shared/renaming.js";
import { branchOf } from "moth/workbench/model/tracing.js";
import { choose } from "moth/workbench/shared/search.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */

/**
 * The selected cards; says what is missing where there are none.
 * @param {GraphPane} pane
 * @param {string} purpose
 * @returns {string[]}
 */
function chosen(pane, purpose) {
  const nodes = [...pane.selection];
  if (!nodes.length) notice(`Select a card first, then ${purpose}.`);
  return nodes;
}

/** @param {GraphPane} pane */
export function remove(pane) {
  const nodes = [...pane.selection];
  if (!nodes.length) return;
  const { model } = pane;
  const lost = endsReading(model, nodes);
  void model.edit({ op: "remove_nodes", nodes });
  if (!lost.length) return;
  const more = lost.length > MOST_NAMED ? ` and ${lost.length - MOST_NAMED} more` : "";
  notice(`No longer wired: ${lost.slice(0, MOST_NAMED).join(", ")}${more}.`, {
    action: "Bridge",
    act: async () => {
      await model.undo();
      void model.craft({ craft: "pull_out", nodes, remove: true });
    },
  });
}

/** So many inputs are named in one sentence. */
const MOST_NAMED = 3;

/**
 * The inputs elsewhere that read some cards, in words.
 * @param {import("../model/model.js").GraphModel} model
 * @param {string[]} nodes
 */
function endsReading(model, nodes) {
  const gone = new Set(nodes);
  return [...model.nodes].flatMap(([id, node]) =>
    gone.has(id)
      ? []
      : Object.entries(node.wires ?? {})
          .filter(([, [source]]) => gone.has(source))
          .map(([input]) => `${model.port(id, input).name} of ${model.nameOf(id)}`),
  );
}

/**
 * @param {GraphPane} pane
 * @param {boolean} [andRemove]
 */
export function pullOut(pane, andRemove = false) {
  const nodes = chosen(pane, "pull it out of its wires");
  if (nodes.length) void pane.model.craft({ craft: "pull_out", nodes, remove: andRemove });
}

/** @param {GraphPane} pane */
export function mute(pane) {
  const nodes = chosen(pane, "mute it");
  const muted = !nodes.every((id) => pane.model.nodes.get(id)?.muted);
  if (nodes.length) void pane.model.edit({ op: "mute_nodes", nodes, muted });
}

/**
 * Swaps the first two inputs that take the same, or asks which two.
 * @param {GraphPane} pane
 * @param {boolean} [ask]
 */
export function swapInputs(pane, ask = false) {
  const [node] = chosen(pane, "swap its inputs");
  if (!node) return;
  const { model } = pane;
  const ports = model.typeOf(node).inputs.filter((port) => port.wirable);
  const pairs = ports.flatMap((first, i) =>
    ports
      .slice(i + 1)
      .filter((second) => second.type === first.type)
      .map((second) => ({ first, second })),
  );
  /** @param {typeof pairs[number]} pair */
  const swap = ({ first, second }) =>
    void model.craft({ craft: "swap_inputs", node, first: first.key, second: second.key });
  if (!pairs.length) notice(`${model.nameOf(node)} has no two inputs that take the same.`);
  else if (!ask || pairs.length === 1) swap(pairs[0]);
  else {
    const choices = pairs.map((pair) => ({
      name: `${pair.first.name} and ${pair.second.name}`,
      act: () => swap(pair),
    }));
    choose(`Swap two inputs of ${model.nameOf(node)}`, "Type an input's name", (query) =>
      choices.filter((c) => c.name.toLowerCase().includes(query.toLowerCase())),
    );
  }
}

/** @param {GraphPane} pane */
export function duplicate(pane) {
  const nodes = chosen(pane, "duplicate it");
  if (nodes.length) void pane.model.craft({ craft: "duplicate", nodes });
}

/**
 * A second branch with names of its own.
 * @param {GraphPane} pane
 */
export function duplicateBranch(pane) {
  const { model } = pane;
  const selected = chosen(pane, "duplicate the branch");
  // Of one card the branch is meant that ends there; several are taken as they were chosen.
  const nodes = selected.length > 1 ? selected : [...branchOf(model, selected)];
  if (!nodes.length) return;
  const inside = new Set(nodes);
  const names = [
    ...nodes.map((id) => model.nodes.get(id)?.label ?? ""),
    ...model.state.document.parameters.filter((p) => inside.has(p.node)).map((p) => p.name),
  ].filter(Boolean);
  const keep = h("input", { type: "checkbox", checked: true });
  renamingSheet({
    title: "Duplicate branch",
    words:
      `A second branch of ${nodes.length} card${nodes.length === 1 ? "" : "s"} with parameters of its own. ` +
      "Leave the first field empty to put the second behind every name.",
    names,
    empty: "Nothing here has a name of its own yet.",
    action: "Duplicate",
    extra: h("label", { class: "check" }, keep, " Keep the wires that come from outside"),
    done: (find, put) =>
      void model.craft({ craft: "duplicate", nodes, find, replace_with: put, keep_wires: keep.checked }),
  });
}

/** @param {GraphPane} pane */
export async function makeMotif(pane) {
  const nodes = [...pane.selection];
  if (!nodes.length) return void notice("Select the nodes that belong together, then press M to make a motif of them.");
  const title = await askText("New motif", "Motif", "Make it");
  if (title) await pane.model.ask("motifs", { nodes, title });
}

/** @param {GraphPane} pane */
export function showOnStage(pane) {
  const [id] = pane.selection;
  if (!id) return void pane.model.setShown("");
  const outputs = pane.model.typeOf(id).outputs.map((o) => `${id}.${o.key}`);
  // Again and again walks through a node's outputs and back to the surface.
  void pane.model.setShown(outputs[outputs.indexOf(pane.model.shown) + 1] ?? "");
}

/** @param {GraphPane} pane */
export function tidy(pane) {
  pane.tidy(pane.selection.size ? [...pane.selection] : null);
}

/** @param {GraphPane} pane */
export function selectAll(pane) {
  pane.select([...pane.cards.keys()]);
}

/** @param {GraphPane} pane */
export function linesInExport(pane) {
  const [id] = chosen(pane, "press E to see its lines in the export");
  const link = /** @type {HTMLAnchorElement} */ (byId("export"));
  if (id && link.pathname.endsWith("/export")) location.assign(`${link.pathname}#${id}`);
  else if (id) notice("A motif leaves with the graphs that use it: see its lines there.");
}
