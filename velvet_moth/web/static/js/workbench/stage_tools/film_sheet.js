/** Asking for a film: what is filmed, how large, in which format, by the stage or by the reference; and what came of it. */
import { getJson, postJson } from "moth/base/api.js";
import { answers, sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { notice, tell } from "moth/base/notices.js";
import { viewOf } from "moth/stage/eye.js";
import { filmReference, filmStage } from "moth/workbench/stage_tools/film_stage.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../stage/stage.js").Stage} Stage */
/** @typedef {import("../../types.d.ts").Film} Film */
/** @typedef {import("../../types.d.ts").FilmFormatState} FilmFormat */
/** @typedef {import("../../types.d.ts").FilmState} FilmState */

const HEIGHTS = [128, 256, 360, 480, 720, 1080];
/** Typed numbers are looked at after so long, in milliseconds. */
const CALM = 250;

/** @param {number} bytes */
const bytesText = (bytes) => (bytes >= 1e5 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.ceil(bytes / 1e3)} kB`);

/** The numbers of columns that fill a sheet of so many frames. @param {number} count */
const columnsFor = (count) =>
  Array.from({ length: count }, (_, at) => at + 1).filter((columns) => count % columns === 0);

/**
 * @param {GraphModel} model
 * @param {Stage} stage
 * @param {{ from: number, to: number }} stretch what is filmed at first, in seconds
 * @param {import("./film_stage.js").Draw} draw
 */
export async function filmSheet(model, stage, stretch, draw) {
  const [{ formats }, { films }] = await Promise.all([getJson("/api/film_formats"), getJson(`${model.url}/films`)]);
  const { timing, title, variants } = model.state.document;
  const select = (
    /** @type {string} */ label,
    /** @type {[string, string][]} */ options,
    /** @type {string} */ value,
  ) => {
    const made = h(
      "select",
      { class: "field", "aria-label": label },
      options.map(([key, words]) => h("option", { value: key }, words)),
    );
    made.value = value;
    return made;
  };
  const number = (/** @type {string} */ label, /** @type {number} */ value, /** @type {number} */ least) =>
    h("input", {
      class: "field mono",
      type: "number",
      "aria-label": label,
      value: String(value),
      min: least,
      step: 1,
      required: true,
    });
  const format = select(
    "Format",
    formats.map((/** @type {FilmFormat} */ one) => [one.key, `${one.name}: ${one.words}`]),
    "mp4",
  );
  const by = select(
    "Drawn by",
    [
      ["stage", "the stage, with smooth edges"],
      ["reference", "the reference, each pixel exact, which takes long"],
    ],
    "stage",
  );
  const what = select(
    "Shows",
    [
      ["one", model.currentVariant?.name ?? "the defaults"],
      ["all", "all variants side by side"],
    ],
    "one",
  );
  const height = select(
    "Height",
    HEIGHTS.map((high) => [String(high), `${high} pixels`]),
    "480",
  );
  const shape = select(
    "Shape",
    [
      ["stage", "as wide as the stage"],
      ["square", "square"],
    ],
    "stage",
  );
  const first = number("First frame", Math.round(stretch.from * timing.rate), 0);
  const last = number("Frame after the last", Math.round(stretch.to * timing.rate), 1);
  const rate = number("Frames a second", timing.rate, 1);
  const columns = select("Columns of the sheet", [], "");
  const clear = h("input", { type: "checkbox", "aria-label": "Clear where there is nothing" });
  const weight = h("p", { class: "quiet", role: "status" });
  const line = (/** @type {string} */ words, /** @type {HTMLElement} */ field) =>
    h("label", { class: "line" }, h("span", {}, words), field);
  const columnsLine = line("Columns", columns);
  const clearLine = line("Clear where there is nothing", clear);
  const kept = h(
    "details",
    { hidden: !films.length },
    h("summary", {}, `Films made before (${films.length})`),
    h(
      "ul",
      { class: "films" },
      films.map((/** @type {FilmState} */ film) => h("li", {}, linkTo(film, formats))),
    ),
  );
  const form = h(
    "form",
    { method: "dialog", class: "film-sheet" },
    line("Format", format),
    line("Drawn by", by),
    line("Shows", what),
    line("Height", height),
    line("Shape", shape),
    h("div", { class: "film-frames" }, line("From frame", first), line("to before", last)),
    line("Frames a second", rate),
    columnsLine,
    clearLine,
    weight,
    kept,
    answers("Make the film"),
  );

  const chosen = () =>
    /** @type {FilmFormat} */ (formats.find((/** @type {FilmFormat} */ one) => one.key === format.value));
  /** @returns {{ film: Film, name: string }} */
  const asked = () => {
    const made = chosen();
    const even = (/** @type {number} */ side) => (made.is_even ? Math.round(side / 2) * 2 : Math.round(side));
    const high = Number(height.value);
    const { clientWidth, clientHeight } = stage.canvas;
    const wide = shape.value === "square" ? high : (high * clientWidth) / clientHeight;
    const seen = viewOf(stage);
    const camera = {
      turn: Number(seen.turn),
      tilt: Number(seen.tilt),
      distance: Number(seen.distance),
      field: Number(seen.field),
      target: /** @type {[number, number, number]} */ ([seen.target_x, seen.target_y, seen.target_z].map(Number)),
    };
    return {
      name: title,
      film: {
        format: made.key,
        width: even(wide),
        height: even(high),
        first: Number(first.value),
        last: Number(last.value),
        rate: Number(rate.value),
        variants: what.value === "all" ? ["", ...variants.map(({ id }) => id)] : [model.variant],
        is_clear: clear.checked && made.keeps_clear,
        columns: made.is_sheet ? Number(columns.value) : 1,
        camera,
        light: [Number(seen.light_turn), Number(seen.light_tilt)],
      },
    };
  };
  const draft = () => {
    const made = chosen();
    const count = Math.max(Number(last.value) - Number(first.value), 0);
    const before = columns.value;
    const fitting = columnsFor(Math.min(count, 4096));
    columns.replaceChildren(
      ...fitting.map((one) => h("option", { value: String(one) }, `${one}, in ${count / one} rows`)),
    );
    const square = fitting.reduce(
      (best, one) => (Math.abs(one - count / one) < Math.abs(best - count / best) ? one : best),
      1,
    );
    columns.value = fitting.includes(Number(before)) ? before : String(square);
    columnsLine.hidden = !made.is_sheet;
    clearLine.hidden = !made.keeps_clear;
    if (made.holds_light) by.value = "reference";
    by.disabled = made.holds_light;
    clearTimeout(timer);
    timer = window.setTimeout(() => void weigh().catch(tell), CALM);
  };
  let timer = 0;
  const weigh = async () => {
    const found = await postJson(`${model.url}/films/weight`, asked());
    weight.classList.toggle("wrong", !!found.wrong);
    weight.textContent =
      found.wrong || `${found.frames} frames of ${found.width} × ${found.height}, about ${bytesText(found.bytes)}.`;
  };
  form.addEventListener("input", draft);
  form.addEventListener("submit", () => {
    const wanted = asked();
    const made = by.value === "stage" ? filmStage(model.url, stage, wanted, draw) : filmReference(model.url, wanted);
    void made.then((film) => film && finished(film, formats)).catch(tell);
  });
  sheet("Save a film", form);
  format.focus();
  draft();
}

/** @param {FilmState} film @param {FilmFormat[]} formats */
function linkTo(film, formats) {
  const name = formats.find(({ key }) => key === film.format)?.name ?? film.format;
  const words = `${name}, ${film.frames} frames of ${film.width} × ${film.height}, ${bytesText(film.size)}`;
  const when = new Date(film.made).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  return [
    h("a", { href: `/api/films/${film.id}/file`, download: "" }, words),
    h("span", { class: "quiet" }, ` ${when}`),
    film.words ? h("p", { class: "quiet" }, film.words) : null,
    film.format === "sheet"
      ? h("button", { type: "button", class: "button small", onclick: () => void asTexture(film) }, "Keep as a texture")
      : null,
  ];
}

/** Says what was made, and gives it to the browser. @param {FilmState} film @param {FilmFormat[]} formats */
function finished(film, formats) {
  const name = formats.find(({ key }) => key === film.format)?.name ?? film.format;
  h("a", { href: `/api/films/${film.id}/file`, download: "" }).click();
  notice(`${name} of ${film.frames} frames, ${bytesText(film.size)}, is done. ${film.words}`, {
    stay: true,
    ...(film.format === "sheet" ? { action: "Keep as a texture", act: () => void asTexture(film) } : {}),
  });
}

/** @param {FilmState} film */
async function asTexture(film) {
  try {
    const { texture } = await postJson(`/api/films/${film.id}/texture`, { name: `${film.name} frames` });
    notice(
      `The texture ${texture.name} is there: ${texture.frames.columns} × ${texture.frames.rows} frames, ${texture.frames.rate} a second.`,
    );
  } catch (error) {
    tell(error);
  }
}
