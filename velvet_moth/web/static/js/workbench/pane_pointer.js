/** The pointer on the graph pane: panning, choosing and moving cards. */

/** @typedef {import("./graph_pane.js").GraphPane} GraphPane */

const DRAG = 4;

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
export function pressPane(pane, event) {
  const target = /** @type {HTMLElement} */ (event.target);
  const card = /** @type {HTMLElement | null} */ (target.closest(".card"));
  if (target.closest("input, select, button, #problems")) return;
  if (event.button === 1 || (event.button === 0 && !card)) {
    if (!card && event.button === 0 && !event.shiftKey) pane.select([]);
    event.preventDefault();
    pane.pane.focus({ preventScroll: true });
    pan(pane, event);
  } else if (event.button === 0 && card) {
    event.preventDefault();
    pressCard(pane, event, card.dataset.node ?? "");
  }
}

/**
 * @param {PointerEvent} start
 * @param {(dx: number, dy: number, event: PointerEvent) => void} move
 * @param {(moved: boolean) => void} [done]
 */
function follow(start, move, done) {
  let moved = false;
  /** @param {PointerEvent} event */
  const onMove = (event) => {
    const [dx, dy] = [event.clientX - start.clientX, event.clientY - start.clientY];
    moved ||= Math.hypot(dx, dy) > DRAG;
    if (moved) move(dx, dy, event);
  };
  const onEnd = () => {
    removeEventListener("pointermove", onMove);
    removeEventListener("pointerup", onEnd);
    removeEventListener("pointercancel", onEnd);
    done?.(moved);
  };
  addEventListener("pointermove", onMove);
  addEventListener("pointerup", onEnd);
  addEventListener("pointercancel", onEnd);
}

/**
 * @param {GraphPane} pane
 * @param {PointerEvent} event
 */
function pan(pane, event) {
  const { x, y } = pane.view;
  follow(event, (dx, dy) => pane.view.set({ x: x + dx, y: y + dy }));
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
  if (!pane.selection.has(id)) pane.select([id]);
  pane.cards.get(id)?.element.focus({ preventScroll: true });
  const starts = [...pane.selection].map((key) => ({ key, from: pane.places.get(key) ?? [0, 0] }));
  const { zoom } = pane.view;
  follow(
    event,
    (dx, dy) => pane.placing.put(starts.map(({ key, from: [x, y] }) => [key, [x + dx / zoom, y + dy / zoom]])),
    (moved) => {
      if (moved) return pane.keepPlaces(starts.map(({ key }) => key));
      pane.select([id]);
      pane.reveal(id);
    },
  );
}
