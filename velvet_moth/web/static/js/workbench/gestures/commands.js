/** Everything one key does on the graph: one list, for the keys and for the overlay that explains them. */
import * as marking from "moth/workbench/gestures/marking.js";
import * as motifs from "moth/workbench/shared/motif_place.js";
import * as edits from "moth/workbench/gestures/edits.js";
import { toggleStageAlone } from "moth/workbench/shared/seams.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/**
 * @typedef {object} Panels what stands over the pane or beside it
 * @property {import("../panels/finder.js").Finder} finder
 * @property {import("../panels/overview.js").Overview} overview
 * @property {import("../panels/history_panel.js").HistoryPanel} history
 * @property {import("../panels/texture_drawer.js").TextureDrawer} textures
 */
/**
 * @typedef {object} Command
 * @property {string[]} keys
 * @property {string} words for the overlay of keys
 * @property {(pane: GraphPane, panels: Panels) => void} run
 * @property {("cards" | "ground")[]} [menus] the menus under the right button that list it
 * @property {string} [name] what it is called there
 */

/** @type {Record<string, Command[]>} */
export const COMMANDS = {
  Adding: [
    {
      menus: ["cards", "ground"],
      name: "Add a node",
      keys: ["Space"],
      words: "Add a node at the pointer; over a wire, into it",
      run: (pane) => pane.add(),
    },
    {
      menus: ["ground"],
      name: "Add the last node again",
      keys: ["Shift+Space"],
      words: "Add the last node again",
      run: (pane) => pane.addAgain(),
    },
    { menus: ["cards"], name: "Duplicate", keys: ["Y"], words: "Duplicate with incoming wires", run: edits.duplicate },
    {
      menus: ["cards"],
      name: "Duplicate branch…",
      keys: ["Shift+Y"],
      words: "Duplicate the branch that ends here, or the selection, with other names",
      run: edits.duplicateBranch,
    },
  ],
  Wiring: [
    {
      menus: ["cards"],
      name: "Wire to…",
      keys: ["W"],
      words: "Wire the selected cards to an input",
      run: (pane) => pane.onWire(),
    },
    {
      menus: ["cards"],
      name: "Swap two inputs",
      keys: ["X"],
      words: "Swap two inputs",
      run: (pane) => edits.swapInputs(pane),
    },
    { keys: ["Shift+X"], words: "Choose which inputs to swap", run: (pane) => edits.swapInputs(pane, true) },
    { menus: ["cards"], name: "Mute or unmute", keys: ["Q"], words: "Mute, or unmute", run: edits.mute },
    {
      menus: ["cards"],
      name: "Pull out",
      keys: ["J"],
      words: "Pull out: the neighbours join",
      run: (pane) => edits.pullOut(pane),
    },
    { menus: ["cards"], name: "Remove", keys: ["Delete", "Backspace"], words: "Remove", run: edits.remove },
    { keys: ["Shift+Delete"], words: "Remove and join the neighbours", run: (pane) => edits.pullOut(pane, true) },
  ],
  Looking: [
    {
      menus: ["cards"],
      name: "Show on the stage",
      keys: ["S"],
      words: "Show on the stage, again for the next output",
      run: edits.showOnStage,
    },
    { keys: ["F"], words: "Fit the graph", run: (pane) => pane.fit() },
    { keys: ["/"], words: "Find a card", run: (_, { finder }) => finder.open() },
    { keys: ["N"], words: "To the next card found", run: (_, { finder }) => finder.step(1) },
    { keys: ["Shift+N"], words: "To the previous card found", run: (_, { finder }) => finder.step(-1) },
    {
      menus: ["cards"],
      name: "Trace",
      keys: ["U"],
      words: "Trace what it depends on; the rest fades",
      run: (pane) => pane.trace(),
    },
    {
      menus: ["cards"],
      name: "Lines in the export",
      keys: ["E"],
      words: "See the lines of the selected card in the export",
      run: edits.linesInExport,
    },
    { keys: ["O"], words: "Overview of the whole graph", run: (_, { overview }) => overview.toggle() },
    { keys: ["H"], words: "History and versions", run: (_, { history }) => history.toggle() },
    { keys: ["G"], words: "Textures, to be put onto the graph", run: (_, { textures }) => textures.toggle() },
    { keys: ["C"], words: "Compact cards, or full ones", run: (pane) => pane.toggleCompact() },
    { keys: ["V"], words: "The stage alone fills the window, or no longer", run: toggleStageAlone },
    { keys: ["+", "="], words: "Nearer", run: (pane) => pane.view.zoomBy(1.2) },
    { keys: ["-"], words: "Farther", run: (pane) => pane.view.zoomBy(1 / 1.2) },
  ],
  Order: [
    {
      menus: ["cards", "ground"],
      name: "Tidy up",
      keys: ["L"],
      words: "Lay out in columns, the selection or all",
      run: edits.tidy,
    },
    {
      menus: ["cards"],
      name: "Frame…",
      keys: ["R"],
      words: "Frame the selected cards",
      run: (pane) => void marking.frame(pane),
    },
    { menus: ["cards"], name: "Remove the frame", keys: ["Shift+R"], words: "Remove the frame", run: marking.unframe },
    {
      menus: ["cards", "ground"],
      name: "Fold or unfold frames",
      keys: ["K"],
      words: "Fold the frame into one line; with nothing selected, unfold all",
      run: marking.fold,
    },
    { menus: ["ground"], name: "Write a note", keys: ["T"], words: "Write a note", run: marking.note },
    {
      menus: ["ground"],
      name: "Bookmark the view",
      keys: ["B"],
      words: "Bookmark the view",
      run: (pane) => void marking.bookmark(pane),
    },
    ...Array.from({ length: 9 }, (_, i) => ({
      keys: [String(i + 1)],
      words: i ? "" : "To the first bookmark, and so on to 9",
      run: (/** @type {GraphPane} */ pane) => marking.goTo(pane, i),
    })),
    {
      menus: ["cards"],
      name: "Make a motif…",
      keys: ["M"],
      words: "Make a motif of the selected cards",
      run: (pane) => void edits.makeMotif(pane),
    },
    {
      menus: ["cards"],
      name: "Go into the motif",
      keys: ["I"],
      words: "Go into the selected motif, in place",
      run: motifs.enter,
    },
    { keys: ["Shift+I"], words: "Leave the motif", run: () => motifs.leave() },
    { menus: ["ground"], name: "Select all", keys: ["Ctrl+A"], words: "Select all cards", run: edits.selectAll },
  ],
};

/** What is done by more than one key, or by the pointer, and so stands in no list above. */
export const GESTURES = {
  "Keys elsewhere": [
    [["Arrows"], "Go from card to card; with Ctrl add it to the selection; with Shift move by hand"],
    [["Enter"], "Open the card's slip, and into it; Escape closes it"],
    [["Ctrl+Enter"], "In the find bar: add the card found to the selection"],
    [["Ctrl+C", "Ctrl+X", "Ctrl+V"], "Copy, cut, paste cards, also into other graphs"],
    [["Ctrl+Z", "Ctrl+Shift+Z"], "Undo, redo"],
    [["P"], "Play or pause time"],
    [["F on the stage"], "Turn the stage about the pin"],
    [["Arrows on the stage"], "Orbit; with Shift turn the light; + and − for distance"],
  ],
  "By the pointer": [
    [["Drag from a pin"], "Wire; let go over nothing to add what fits"],
    [["Press a card twice"], "Open its slip: inputs by their whole names, settings, help, range and cost"],
    [["Drag a card"], "Move it; a free card let go over a wire is put into it"],
    [["Drag the ground"], "Move the view; the wheel zooms"],
    [["Shift+drag"], "Select what lies in the box"],
    [["Alt+drag"], "Cut every wire on the way"],
    [["Drag a parameter"], "Onto an input: feed it too; in the list: another place; onto the ground: a card"],
    [["Drag a number"], "Turn it; Shift for fine, Alt for coarse. Typed, it may be 1/12, 30deg or 5cm"],
    [["Press a wire"], "See what flows; take a part of it; put a node in"],
    [["Drag on the stage"], "Orbit; right button turns the light; wheel for distance"],
  ],
};

/** @type {Map<string, Command>} */
const BY_KEY = new Map(
  Object.values(COMMANDS)
    .flat()
    .flatMap((command) => command.keys.map((key) => [key.toLowerCase(), command])),
);

/**
 * A key press as the lists above write it, in small letters.
 * @param {KeyboardEvent} event
 */
export function keyName(event) {
  const key = event.key === " " ? "space" : event.key.toLowerCase();
  // Signs that need Shift on one keyboard and not on another are named by themselves.
  const shift = event.shiftKey && (key.length > 1 || key !== event.key);
  return `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${shift ? "shift+" : ""}${key}`;
}

/** @param {KeyboardEvent} event */
export const commandOf = (event) => (event.altKey ? undefined : BY_KEY.get(keyName(event)));
