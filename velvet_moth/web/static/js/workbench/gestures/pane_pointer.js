/** The pointer on the graph pane: moving the view, choosing and moving cards, cutting wires. */
import { follow, h, svg } from "moth/base/dom.js";
import { showWire } from "moth/workbench/graph/wires/wire_card.js";
import { wireUnder } from "moth/workbench/graph/wires/wires.js";

/** @typedef {import("../graph/graph_pane.js").GraphPane} GraphPane */
/** @typedef {[number, number]} Point */

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
export function pressPane(pane, event) {
  const target = /** @type {HTMLElement} */ (event.target);
  const card = /** @type {HTMLElement | null} */ (target.closest(".card"));
  if (target.closest("input, select, button, textarea, #problems, .over-pane")) return;
  const wire = /** @type {SVGElement | null} */ (target.closest(".wire"));
  if (event.button === 0 && wire?.dataset.end && !event.altKey) return pressWire(pane, event, wire);
  if (event.button === 1 || (event.button === 0 && !card)) {
    event.preventDefault();
    pane.pane.focus({ preventScroll: true });
    if (event.button === 0 && event.altKey) return cutWires(pane, event);
    if (event.button === 0 && event.shiftKey) return selectBox(pane, event);
    if (event.button === 0) pane.select([]);
    pan(pane, event);
  } else if (event.button === 0 && card) {
    event.preventDefault();
    pressCard(pane, event, card.dataset.node ?? "");
  }
}

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
function pan(pane, event) {
  const { x, y } = pane.view;
  // What is under the pointer does not matter meanwhile, and to find it out takes time with many cards.
  const shield = h("div", { class: "pane-shield" });
  follow(
    event,
    (dx, dy) => {
      if (!shield.isConnected) pane.pane.append(shield);
      pane.view.set({ x: x + dx, y: y + dy });
    },
    () => shield.remove(),
  );
}

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 * @param {SVGElement} wire
 */
function pressWire(pane, event, wire) {
  event.preventDefault();
  const [node, input] = (wire.dataset.end ?? "").split(".");
  const { x, y } = pane.view;
  follow(
    event,
    (dx, dy) => pane.view.set({ x: x + dx, y: y + dy }),
    (moved) => {
      if (!moved) showWire(pane, node, input, event.clientX, event.clientY);
    },
  );
}

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 * @param {string} id
 */
function pressCard(pane, event, id) {
  if (event.shiftKey) {
    pane.pane.focus({ preventScroll: true });
    const others = [...pane.selection].filter((other) => other !== id);
    return pane.select(pane.selection.has(id) ? others : [...pane.selection, id]);
  }
  const isSecond = pane.selection.size === 1 && pane.selection.has(id);
  if (!pane.selection.has(id)) pane.select([id]);
  pane.cards.get(id)?.element.focus({ preventScroll: true });
  const starts = [...pane.selection].map((key) => ({ key, from: pane.places.get(key) ?? [0, 0] }));
  const { zoom } = pane.view;
  /** @type {SVGElement | null} */
  let over = null;
  follow(
    event,
    (dx, dy, now) => {
      pane.placing.put(starts.map(({ key, from: [x, y] }) => [key, [x + dx / zoom, y + dy / zoom]]));
      over?.classList.remove("taking");
      over = starts.length === 1 && isFree(pane, id) ? wireUnder(now) : null;
      over?.classList.add("taking");
    },
    (moved) => {
      over?.classList.remove("taking");
      if (moved && over) {
        const [into, input] = (over.dataset.end ?? "").split(".");
        pane.placing.reset();
        return void pane.model.craft({ craft: "insert_node", into, input, existing: id });
      }
      if (moved) return pane.keepPlaces(starts.map(({ key }) => key));
      pane.select([id]);
      if (isSecond) pane.slips.open(id);
    },
  );
}

/**
 * Whether a card has no wires at all.
 * @param {GraphPane} pane
 * @param {string} id
 */
const isFree = (pane, id) => {
  const { nodes } = pane.model;
  if (Object.keys(nodes.get(id)?.wires ?? {}).length) return false;
  return ![...nodes.values()].some((node) => Object.values(node.wires ?? {}).some(([source]) => source === id));
};

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
function selectBox(pane, event) {
  const before = [...pane.selection];
  const start = pane.view.toWorld(event.clientX, event.clientY);
  const box = svg("rect", { class: "select-box" });
  pane.wires.layer.append(box);
  follow(
    event,
    (_dx, _dy, now) => {
      const end = pane.view.toWorld(now.clientX, now.clientY);
      const [left, right] = [Math.min(start[0], end[0]), Math.max(start[0], end[0])];
      const [top, bottom] = [Math.min(start[1], end[1]), Math.max(start[1], end[1])];
      for (const [name, value] of Object.entries({ x: left, y: top, width: right - left, height: bottom - top })) {
        box.setAttribute(name, String(value));
      }
      const inside = pane.layer.inside(pane.places, { left, top, right, bottom });
      pane.mark([...new Set([...before, ...inside])]);
    },
    (moved) => {
      box.remove();
      pane.select(moved ? [...pane.marked] : []);
    },
  );
}

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
function cutWires(pane, event) {
  /** @type {Point[]} */
  const line = [pane.view.toWorld(event.clientX, event.clientY)];
  const drawn = svg("path", { class: "cut-line" });
  pane.wires.layer.append(drawn);
  follow(
    event,
    (_dx, _dy, now) => {
      line.push(pane.view.toWorld(now.clientX, now.clientY));
      drawn.setAttribute("d", `M${line.map((point) => point.join(" ")).join("L")}`);
      const cut = pane.wires.crossed(line);
      for (const [key, { element }] of pane.wires.wires) element.classList.toggle("cut", cut.has(key));
    },
    () => {
      drawn.remove();
      const cut = [...pane.wires.crossed(line)];
      for (const { element } of pane.wires.wires.values()) element.classList.remove("cut");
      const steps = cut.map((key) => {
        const [node, input] = key.split(".");
        return /** @type {const} */ ({ op: "unwire", node, input });
      });
      const words = `cut ${steps.length} wire${steps.length === 1 ? "" : "s"}`;
      if (steps.length) void pane.model.editAll(steps, words);
    },
  );
}
