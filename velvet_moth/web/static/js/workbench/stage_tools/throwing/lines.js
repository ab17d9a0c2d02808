/** The rays of a chosen splash, drawn over the stage with what they found. */
import { svg } from "moth/base/dom.js";
import { seenAt } from "moth/stage/eye.js";

/** Words take so many pixels. */
const [WIDE, HIGH] = [110, 14];

/**
 * @param {SVGSVGElement} place
 * @param {import("../../../stage/stage.js").Stage} stage
 * @param {import("../../../types.d.ts").SplashState | null} splash
 */
export function drawRays(place, stage, splash) {
  /** Where words are already. @type {{ x: number, y: number }[]} */
  const taken = [];
  const parts = (splash?.seen ?? []).flatMap(({ start, end, what }) => {
    const [from, to] = [seenAt(stage, start), seenAt(stage, end)];
    if (!from || !to) return [];
    const line = svg("line", { class: "throw-ray", x1: from.x, y1: from.y, x2: to.x, y2: to.y });
    const spot = svg("circle", { class: "throw-spot", cx: to.x, cy: to.y, r: 3 });
    const at = { x: to.x + 7, y: to.y - 5 };
    while (taken.some(({ x, y }) => Math.abs(x - at.x) < WIDE && Math.abs(y - at.y) < HIGH)) at.y += HIGH;
    taken.push(at);
    const words = svg("text", { class: "throw-words", ...at });
    words.textContent = what;
    return [line, spot, words];
  });
  place.replaceChildren(...parts);
}
