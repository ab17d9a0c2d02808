/** What is known of a texture: how it is read, what its channels hold, what is wrong with it, who uses it. */
import { h } from "moth/base/dom.js";
import { numberText } from "moth/fields/fields.js";

/** @typedef {import("../types.d.ts").TextureFacts} TextureFacts */
/** @typedef {{ role: string, green: "up" | "down" }} Reading */

const COLOURS = { red: "#a8322d", green: "#2f6f66", blue: "#3a4f8f", alpha: "#524f4d", grey: "#524f4d" };
const CHART = { width: 264, height: 54 };

/**
 * @param {TextureFacts} facts
 * @param {Record<string, { name: string, words: string, is_signed: boolean }>} roles
 * @param {{ read: (reading: Reading) => void, look: (channel: string) => void }} acts
 */
export function factsOf(facts, roles, acts) {
  const { texture, verdicts, users } = facts;
  return [
    verdicts.length
      ? h(
          "ul",
          { class: "verdicts", "aria-label": "What is worth knowing" },
          verdicts.map((v) => verdictOf(v, roles, acts)),
        )
      : h("p", { class: "well" }, "Nothing wrong was found."),
    h("h3", { class: "eyebrow" }, "Read as"),
    readingOf(texture, roles, acts.read),
    h(
      "p",
      { class: "quiet" },
      `By its content: ${roles[facts.guess.reading.role].name.toLowerCase()}, ${facts.guess.reason}.`,
    ),
    h("h3", { class: "eyebrow" }, "Channels"),
    channelsOf(facts),
    h("h3", { class: "eyebrow" }, "Used in"),
    users.length
      ? h(
          "ul",
          { class: "users" },
          users.map(({ id, title }) => h("li", {}, h("a", { href: `/graphs/${id}` }, title))),
        )
      : h("p", { class: "quiet" }, "No graph yet. Drag it from the list of textures onto a graph."),
  ];
}

/**
 * @param {TextureFacts["verdicts"][number]} verdict
 * @param {Record<string, { name: string }>} roles
 * @param {{ read: (reading: Reading) => void, look: (channel: string) => void }} acts
 */
function verdictOf({ severity, what, reading, channel }, roles, acts) {
  const words =
    reading &&
    `Read as ${roles[reading.role].name.toLowerCase()}${reading.role === "normal" ? `, green ${reading.green}` : ""}`;
  return h(
    "li",
    { class: severity },
    h("p", {}, h("span", { class: "severity" }, severity === "warning" ? "Wrong?" : "Note"), " ", what),
    reading ? h("button", { type: "button", class: "button small", onclick: () => acts.read(reading) }, words) : null,
    channel
      ? h("button", { type: "button", class: "button small", onclick: () => acts.look(channel) }, `Look at ${channel}`)
      : null,
  );
}

/**
 * @param {TextureFacts["texture"]} texture
 * @param {Record<string, { name: string, words: string, is_signed: boolean }>} roles
 * @param {(reading: Reading) => void} read
 */
function readingOf(texture, roles, read) {
  const role = h(
    "select",
    { class: "field", "aria-label": "Read as", id: "role" },
    Object.entries(roles).map(([key, { name }]) => h("option", { value: key, selected: key === texture.role }, name)),
  );
  const green = h(
    "select",
    { class: "field", "aria-label": "Green points", id: "green" },
    ["up", "down"].map((way) => h("option", { value: way, selected: way === texture.green }, `green ${way}`)),
  );
  green.hidden = !roles[texture.role].is_signed;
  const changed = () => read({ role: role.value, green: green.value === "down" ? "down" : "up" });
  role.addEventListener("change", changed);
  green.addEventListener("change", changed);
  return h("div", { class: "reading" }, role, green, h("span", { class: "quiet" }, roles[texture.role].words));
}

/** @param {TextureFacts} facts */
function channelsOf({ channels }) {
  const percent = (/** @type {number} */ share) =>
    share < 0.0005 ? "" : share < 0.01 ? "<1 %" : `${Math.round(share * 100)} %`;
  return h(
    "table",
    { class: "channels" },
    h(
      "thead",
      {},
      h(
        "tr",
        {},
        ["", "least", "most", "mean", "at 0", "at 1"].map((word) => h("th", { scope: "col" }, word)),
      ),
    ),
    channels.map((channel) =>
      h(
        "tbody",
        {},
        h(
          "tr",
          {},
          h("th", { scope: "row" }, channel.name),
          [channel.low, channel.high, channel.mean].map((value) => h("td", { class: "mono" }, numberText(value))),
          h("td", { class: "mono" }, percent(channel.low_clip)),
          h("td", { class: "mono" }, percent(channel.high_clip)),
        ),
        h("tr", {}, h("td", { colspan: 6 }, chart(channel))),
      ),
    ),
  );
}

/** How often each value comes, as bars; the tallest few are cut so that the rest can be seen. @param {TextureFacts["channels"][number]} channel */
function chart({ name, counts, span }) {
  const ratio = devicePixelRatio;
  const canvas = h("canvas", {
    class: "chart",
    width: CHART.width * ratio,
    height: CHART.height * ratio,
    role: "img",
    "aria-label": `How often each value of ${name} comes, from ${numberText(span[0])} to ${numberText(span[1])}`,
  });
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  context.scale(ratio, ratio);
  const sorted = [...counts].sort((a, b) => b - a);
  const top = Math.max(1, sorted[2] || sorted[0]);
  const wide = CHART.width / counts.length;
  context.fillStyle = COLOURS[/** @type {"red"} */ (name)] ?? "#524f4d";
  counts.forEach((count, i) => {
    const tall = Math.min(1, count / top) * CHART.height;
    context.fillRect(i * wide, CHART.height - tall, Math.max(1, wide - 1), tall);
  });
  return canvas;
}
