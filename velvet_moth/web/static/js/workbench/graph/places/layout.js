/** Columns: each card in the column of its depth, ordered so that few wires cross. Runs in the layout worker. */

export const CARD_WIDTH = 140;
export const GAP = 28;
export const FOLDED_HEIGHT = 34;
export const BETWEEN = 14;
/** A wire over more columns than this says little about where its card should lie, and costs most of the time. */
const LONG = 3;
/** Up to so many cards every wire has its say. */
const FEW = 360;

/** The key of a folded frame among the places; no node's id holds a colon. @param {string} frame */
export const foldedKey = (frame) => `frame:${frame}`;

/** The key of a wire's way among the routes. @param {string} source @param {string} reader */
export const routeKey = (source, reader) => `${source}>${reader}`;

/** Whether a way begins or ends at a card. @param {string} key @param {string} id */
export const endsAt = (key, id) => key.startsWith(`${id}>`) || key.endsWith(`>${id}`);

/** The node a way leads to. @param {string} key */
export const readerOf = (key) => key.slice(key.indexOf(">") + 1);

/** @typedef {{ id: string, height: number, place?: [number, number] | null, sources: string[] }} Box */
/** @typedef {[number, number]} Point */

/**
 * How many columns before the end each card could stand at the latest.
 * @param {Box[]} boxes
 * @returns {Map<string, number>}
 */
function heights(boxes) {
  /** @type {Map<string, string[]>} */
  const readers = new Map(boxes.map((box) => [box.id, []]));
  for (const box of boxes) for (const source of box.sources) readers.get(source)?.push(box.id);
  /** @type {Map<string, number>} */
  const found = new Map();
  for (const { id: start } of boxes) {
    const todo = [start];
    while (todo.length) {
      const id = todo[todo.length - 1];
      const open = (readers.get(id) ?? []).filter((reader) => !found.has(reader));
      if (open.length) todo.push(...open);
      else {
        todo.pop();
        found.set(id, Math.max(-1, ...(readers.get(id) ?? []).map((r) => found.get(r) ?? 0)) + 1);
      }
    }
  }
  return found;
}

/** @typedef {{ source: string, reader: string, isFar: boolean }} Edge */

/**
 * Every wire between cards, and whether it may be left out: the farthest-left reader keeps a card in order.
 * @param {Box[]} boxes
 * @returns {Edge[]}
 */
function edges(boxes) {
  const high = heights(boxes);
  /** @type {Map<string, number>} */
  const first = new Map();
  for (const { id, sources } of boxes) {
    for (const source of sources) first.set(source, Math.max(first.get(source) ?? -1, high.get(id) ?? 0));
  }
  return boxes.flatMap(({ id: reader, sources }) =>
    sources
      .filter((source) => high.has(source))
      .map((source) => {
        const [from, to] = [high.get(source) ?? 0, high.get(reader) ?? 0];
        return { source, reader, isFar: boxes.length > FEW && from - to > LONG && to !== first.get(source) };
      }),
  );
}

/**
 * @param {typeof import("dagre")} dagre
 * @param {Box[]} boxes the dock is not among them
 * @param {string[]} docked the nodes wired to the dock, from its top to its bottom
 * @param {string[][]} [groups] cards that are to lie together, in frames
 * @returns {{ places: Map<string, Point>, routes: Map<string, Point[]> }} the top left corner of each card, and
 *   the middles of the columns that a wire crosses where it must keep off their cards
 */
export function columns(dagre, boxes, docked, groups = []) {
  const every = edges(boxes);
  let kept = every.filter((edge) => !edge.isFar);
  for (;;) {
    const laid = laidOut(dagre, boxes, docked, kept, groups);
    if (!laid) return { places: aroundHeld(boxes, plainColumns(boxes)), routes: new Map() };
    const { places, routes } = laid;
    // A wire left out must not run backwards for it; then it has its say after all.
    const wrong = every.filter(
      ({ source, reader }) => (places.get(source)?.[0] ?? 0) >= (places.get(reader)?.[0] ?? 0),
    );
    const missing = wrong.filter((edge) => !kept.includes(edge));
    if (!missing.length) return { places: aroundHeld(boxes, places), routes };
    kept = [...kept, ...missing];
  }
}

/**
 * For graphs that are too deep for the library: each card in its column, level with the cards it reads.
 * @param {Box[]} boxes
 * @returns {Map<string, Point>}
 */
function plainColumns(boxes) {
  const high = heights(boxes);
  const last = Math.max(...high.values());
  /** @type {Box[][]} */
  const found = Array.from({ length: last + 1 }, () => []);
  for (const box of boxes) found[last - (high.get(box.id) ?? 0)].push(box);
  /** @type {Map<string, Point>} */
  const places = new Map();
  for (const [i, column] of found.entries()) {
    const wanted = new Map(
      column.map(({ id, sources }) => {
        const levels = sources.flatMap((source) => places.get(source)?.[1] ?? []);
        return [id, levels.length ? levels.reduce((sum, y) => sum + y, 0) / levels.length : 0];
      }),
    );
    let bottom = -Infinity;
    for (const { id, height } of column.sort((a, b) => (wanted.get(a.id) ?? 0) - (wanted.get(b.id) ?? 0))) {
      const y = Math.max(bottom, wanted.get(id) ?? 0);
      places.set(id, [i * (CARD_WIDTH + GAP), y]);
      bottom = y + height + BETWEEN;
    }
  }
  return places;
}

/**
 * Cards placed by hand stay; laid ones that would lie on them or on one another for it make room downwards.
 * @param {Box[]} boxes
 * @param {Map<string, Point>} laid
 * @returns {Map<string, Point>}
 */
function aroundHeld(boxes, laid) {
  const settled = boxes.flatMap(({ place, height }) => (place ? [{ x: place[0], y: place[1], height }] : []));
  /** @type {Map<string, Point>} */
  const found = new Map(boxes.map(({ id, place }) => [id, place ?? laid.get(id) ?? [0, 0]]));
  /** @param {Box} box @returns {Point} */
  const at = ({ id }) => found.get(id) ?? [0, 0];
  if (!settled.length) return found;
  const free = boxes.filter(({ place }) => !place).sort((a, b) => at(a)[1] - at(b)[1]);
  for (const box of free) {
    const { id, height } = box;
    const [x, top] = at(box);
    let y = top;
    const beside = settled.filter((s) => Math.abs(s.x - x) < CARD_WIDTH).sort((a, b) => a.y - b.y);
    for (const s of beside) if (s.y < y + height && s.y + s.height > y) y = s.y + s.height + BETWEEN;
    found.set(id, [x, y]);
    settled.push({ x, y, height });
  }
  return found;
}

/**
 * @param {typeof import("dagre")} dagre
 * @param {Box[]} boxes
 * @param {string[]} docked
 * @param {Edge[]} wires
 * @param {string[][]} groups
 * @returns {{ places: Map<string, Point>, routes: Map<string, Point[]> } | null} null where it is too deep: the library
 *   follows wires by recursion, and a stack ends
 */
function laidOut(dagre, boxes, docked, wires, groups) {
  const graph = new dagre.Graph({ compound: groups.length > 0 });
  graph.setGraph({ rankdir: "LR", nodesep: BETWEEN, ranksep: GAP, ranker: "network-simplex" });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const box of boxes) graph.setNode(box.id, { width: CARD_WIDTH, height: box.height });
  for (const { source, reader } of wires) graph.setEdge(source, reader, {});
  if (docked.length) {
    graph.setNode("dock", { width: 1, height: 40 });
    for (const source of docked) if (graph.hasNode(source)) graph.setEdge(source, "dock", {});
  }
  groups.forEach((members, i) => {
    graph.setNode(`group:${i}`, {});
    for (const id of members) if (graph.hasNode(id)) graph.setParent(id, `group:${i}`);
  });
  try {
    dagre.layout(graph);
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
  const places = new Map(
    boxes.map(({ id, height }) => {
      const laid = graph.node(id);
      return /** @type {[string, Point]} */ ([id, [laid.x - CARD_WIDTH / 2, laid.y - height / 2]]);
    }),
  );
  // Points of an edge lie in columns of cards and between them; those in a column are where it must keep off cards.
  const columnsAt = new Set(boxes.map(({ id }) => Math.round(graph.node(id).x)));
  /** @type {Map<string, Point[]>} */
  const routes = new Map();
  for (const edge of graph.edges()) {
    const [start, end] = [graph.node(edge.v).x, graph.node(edge.w).x];
    const crossed = graph
      .edge(edge)
      .points.filter(
        (/** @type {{ x: number, y: number }} */ { x }) => x > start + 1 && x < end - 1 && columnsAt.has(Math.round(x)),
      )
      .map((/** @type {{ x: number, y: number }} */ { x, y }) => /** @type {Point} */ ([x, y]));
    if (crossed.length) routes.set(routeKey(edge.v, edge.w), crossed);
  }
  return { places, routes };
}
