/** Where a slip goes: beside its card, within the pane, never over an end of one of the card's wires. */

/** @typedef {{ left: number, top: number, right: number, bottom: number }} Box in pixels of the pane */
/** @typedef {[number, number]} Point */
/**
 * @typedef {object} Around what a slip has to do with
 * @property {Box} bounds where it may be
 * @property {Box} card its own card
 * @property {Point[]} ends of the wires of its card, at both sides
 * @property {Box[]} cards that it had better leave free
 * @property {Box[]} panels and other slips, which it should leave free
 */

/** Between a slip and its card. */
const GAP = 14;
/** Around the end of a wire, so that a hand can take it. */
const CLEAR = 12;
/** A slip scrolls in itself; lower than this it would show too little. */
const LEAST_HEIGHT = 150;
/** What covering an end costs against covering cards: it is chosen only where nothing else is left. */
const FORBIDDEN = 1e9;
/** Of panels each pixel counts so many times: they may lie above the slip. */
const PANEL = 8;
/** How much better another rule must be before a slip changes its side while the view moves, in pixels squared. */
const STAY = 30000;

/** @param {number} value @param {number} low @param {number} high */
const clamp = (value, low, high) => Math.max(low, Math.min(high, value));

/** The part of a length that both spans share. @param {number} a @param {number} b @param {number} c @param {number} d */
const shared = (a, b, c, d) => Math.max(0, Math.min(b, d) - Math.max(a, c));

/**
 * @param {Box} a
 * @param {Box} b
 */
const overlap = (a, b) => shared(a.left, a.right, b.left, b.right) * shared(a.top, a.bottom, b.top, b.bottom);

/**
 * @param {Box} box
 * @param {Around} around
 */
function cost(box, { card, ends, cards, panels }) {
  const covered = ends.filter(
    ([x, y]) => x > box.left - CLEAR && x < box.right + CLEAR && y > box.top - CLEAR && y < box.bottom + CLEAR,
  ).length;
  const own = overlap(box, card);
  const away =
    Math.max(0, box.left - card.right, card.left - box.right) +
    Math.max(0, box.top - card.bottom, card.top - box.bottom);
  return (
    covered * FORBIDDEN +
    (own ? FORBIDDEN : 0) +
    cards.reduce((sum, other) => sum + overlap(box, other), 0) +
    panels.reduce((sum, other) => sum + overlap(box, other) * PANEL, 0) +
    away * away * 0.5 +
    away * 60
  );
}

/**
 * @param {{ width: number, height: number }} size what the slip would like
 * @param {Around} around
 * @param {string} [before] the rule by which it is placed now
 * @returns {{ left: number, top: number, height: number, rule: string }}
 */
export function placeSlip({ width, height }, around, before = "") {
  const { bounds, card, ends } = around;
  const room = bounds.bottom - bounds.top;
  const whole = Math.min(height, room);
  /** @type {[string, number][]} */
  const across = [
    ["right", card.right + GAP],
    ["left", card.left - GAP - width],
    ["over", card.left],
    ["end", card.right - width],
    ["edge", bounds.left],
    ["far", bounds.right - width],
  ];
  // Between the ends of two wires there is room too, if it is high enough.
  const levels = [bounds.top - CLEAR, ...ends.map(([, y]) => y), bounds.bottom + CLEAR].sort((a, b) => a - b);
  const spans = levels.flatMap((from, i) => {
    const to = levels[i + 1] ?? from;
    return to - from - 2 * CLEAR >= LEAST_HEIGHT ? [[from + CLEAR, to - CLEAR]] : [];
  });
  let best = { left: bounds.left, top: bounds.top, height: whole, rule: "", least: Infinity };
  for (const [name, x] of across) {
    /** @type {[string, number, number][]} */
    const tried = [
      ["level", card.top, whole],
      ["below", card.bottom + GAP, whole],
      ["above", card.top - GAP - whole, whole],
      ["below short", card.bottom + GAP, Math.min(whole, bounds.bottom - card.bottom - GAP)],
      ["above short", bounds.top, Math.min(whole, card.top - GAP - bounds.top)],
      ...spans.map(([from, to], i) => {
        const high = Math.min(whole, to - from);
        return /** @type {[string, number, number]} */ ([`span ${i}`, clamp(card.top, from, to - high), high]);
      }),
    ];
    for (const [way, y, high] of tried) {
      if (high < Math.min(LEAST_HEIGHT, whole)) continue;
      const left = clamp(x, bounds.left, Math.max(bounds.left, bounds.right - width));
      const top = clamp(y, bounds.top, Math.max(bounds.top, bounds.bottom - high));
      const rule = `${name} ${way}`;
      const lost = (whole - high) * width * 0.4;
      const box = { left, top, right: left + width, bottom: top + high };
      const least = cost(box, around) + lost - (rule === before ? STAY : 0);
      if (least < best.least) best = { left, top, height: high, rule, least };
    }
  }
  return best;
}

/**
 * Where a slip goes that was moved by hand: there, as far as that is within the pane.
 * @param {{ width: number, height: number }} size what the slip would like
 * @param {Point} at its upper left corner
 * @param {Box} bounds
 * @param {number} least how much of its height stays in view
 * @returns {{ left: number, top: number, height: number, rule: string }}
 */
export function placeByHand({ width, height }, [x, y], bounds, least) {
  const left = clamp(x, bounds.left, Math.max(bounds.left, bounds.right - width));
  const top = clamp(y, bounds.top, Math.max(bounds.top, bounds.bottom - Math.min(height, least)));
  return { left, top, height: Math.min(height, bounds.bottom - top), rule: "" };
}
