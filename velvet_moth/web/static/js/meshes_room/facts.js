/** What is known of a mesh: how it is read, what is worth knowing, its parts and channels, and who stands on it. */
import { h } from "moth/base/dom.js";
import { numberText } from "moth/fields/fields.js";

/** @typedef {import("../types.d.ts").MeshFacts} MeshFacts */
/** @typedef {MeshFacts["reading"]} Reading */
/** @typedef {MeshFacts["verdicts"][number]} Verdict */

const many = (/** @type {number} */ count) => count.toLocaleString("en");
/** Lengths as people write them, in the unit that suits the largest. @param {number[]} metres */
function lengths(metres) {
  const isSmall = Math.max(...metres) < 1;
  return `${metres.map((one) => numberText(isSmall ? one * 100 : one)).join(" × ")} ${isSmall ? "cm" : "m"}`;
}

/**
 * @param {MeshFacts} facts
 * @param {{ ups: string[], units: Record<string, string> }} settings
 * @param {{ read: (reading: Reading) => void, look: (channel: string) => void, mend: (verdict: Verdict) => void }} acts
 */
export function factsOf(facts, settings, acts) {
  const { mesh, verdicts, users, notes, parts } = facts;
  return [
    verdicts.length
      ? h(
          "ul",
          { class: "verdicts", "aria-label": "What is worth knowing" },
          verdicts.map((one) => verdictOf(one, acts.mend)),
        )
      : h("p", { class: "well" }, "Nothing wrong was found."),
    h(
      "dl",
      { class: "mesh-counts" },
      [
        ["Size", lengths(mesh.size)],
        ["Vertices", many(mesh.vertices)],
        ["Places of vertices", many(facts.places)],
        ["Triangles", many(mesh.triangles)],
        ["Pieces", many(facts.pieces)],
        ["Surface", `${numberText(facts.area)} m²`],
        [
          "Carries",
          [facts.has_uvs ? "UVs" : "no UVs", facts.depth ? `colours, ${facts.depth}` : ""].filter(Boolean).join(", "),
        ],
      ].flatMap(([name, value]) => [h("dt", {}, name), h("dd", { class: "mono" }, value)]),
    ),
    h("h3", { class: "eyebrow" }, "Read as"),
    readingOf(facts, settings, acts.read),
    notes.length
      ? h(
          "ul",
          { class: "mesh-notes quiet" },
          notes.map((note) => h("li", {}, note)),
        )
      : null,
    parts.length > 1 ? h("h3", { class: "eyebrow" }, "Parts") : null,
    parts.length > 1
      ? h(
          "ul",
          { class: "mesh-parts" },
          parts.map(({ name, triangles }) =>
            h("li", {}, h("span", {}, name), h("span", { class: "quiet mono" }, many(triangles))),
          ),
        )
      : null,
    h("h3", { class: "eyebrow" }, "Vertex data"),
    channelsOf(facts, acts.look),
    h("h3", { class: "eyebrow" }, "Graphs on it"),
    users.length
      ? h(
          "ul",
          { class: "users" },
          users.map(({ id, title }) => h("li", {}, h("a", { href: `/graphs/${id}` }, title))),
        )
      : h("p", { class: "quiet" }, "None yet. Choose it as the form on the stage of a graph."),
  ].filter((part) => part !== null);
}

/**
 * @param {Verdict} verdict
 * @param {(verdict: Verdict) => void} act
 */
function verdictOf(verdict, act) {
  const { severity, words, mend } = verdict;
  return h(
    "li",
    { class: severity },
    h("p", {}, h("span", { class: "severity" }, severity === "warning" ? "Wrong?" : "Note"), " ", words),
    mend
      ? h(
          "button",
          {
            type: "button",
            class: "button small",
            title: "Adds a step and bakes the mesh",
            onclick: () => act(verdict),
          },
          mend,
        )
      : null,
  );
}

/**
 * @param {MeshFacts} facts
 * @param {{ ups: string[], units: Record<string, string> }} settings
 * @param {(reading: Reading) => void} read
 */
function readingOf({ reading }, { ups, units }, read) {
  const choice = (
    /** @type {string} */ label,
    /** @type {[string, string][]} */ entries,
    /** @type {string} */ chosen,
  ) =>
    h(
      "select",
      { class: "field", "aria-label": label },
      entries.map(([key, words]) => h("option", { value: key, selected: key === chosen }, words)),
    );
  const up = choice(
    "Axis that is up",
    ups.map((key) => [key, `${key.toUpperCase()} up`]),
    reading.up,
  );
  const unit = choice("Unit", Object.entries(units), reading.unit);
  const changed = () =>
    read({
      ...reading,
      up: /** @type {Reading["up"]} */ (up.value),
      unit: /** @type {Reading["unit"]} */ (unit.value),
    });
  up.addEventListener("change", changed);
  unit.addEventListener("change", changed);
  return h("div", { class: "reading" }, up, unit);
}

/**
 * @param {MeshFacts} facts
 * @param {(channel: string) => void} look
 */
function channelsOf({ channels, carried }, look) {
  if (!Object.keys(carried).length) {
    return h("p", { class: "quiet" }, "None: whatever reads it gets 1. Steps make some.");
  }
  return h(
    "table",
    { class: "channels" },
    h(
      "thead",
      {},
      h(
        "tr",
        {},
        ["", "least", "most", "mean", ""].map((word) => h("th", { scope: "col" }, word)),
      ),
    ),
    h(
      "tbody",
      {},
      channels
        .filter(({ name }) => name in carried)
        .map(({ name, low, high, mean }) =>
          h(
            "tr",
            {},
            h("th", { scope: "row" }, name, carried[name] ? h("span", { class: "quiet" }, ` ${carried[name]}`) : null),
            [low, high, mean].map((value) => h("td", { class: "mono" }, numberText(value))),
            h(
              "td",
              {},
              h(
                "button",
                { type: "button", class: "button small", "aria-label": `Look at ${name}`, onclick: () => look(name) },
                "Look",
              ),
            ),
          ),
        ),
    ),
  );
}
