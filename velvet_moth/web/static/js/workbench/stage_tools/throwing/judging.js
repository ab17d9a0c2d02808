/** Judging many throws: asked for as a job, then shown as a sheet of outlines with sentences. */
import { getJson, postJson } from "moth/base/api.js";
import { sheet } from "moth/base/dialogs.js";
import { h } from "moth/base/dom.js";
import { done } from "moth/base/jobs.js";
import { viewOf } from "moth/stage/eye.js";

/** @typedef {import("../../../types.d.ts").JudgementState} JudgementState */

/** @param {import("./thrown.js").Thrown} thrown */
export async function judge(thrown) {
  const { model, stage } = thrown;
  const seen = viewOf(stage);
  const camera = {
    turn: Number(seen.turn),
    tilt: Number(seen.tilt),
    distance: Number(seen.distance),
    field: Number(seen.field),
    target: [seen.target_x, seen.target_y, seen.target_z].map(Number),
  };
  const job = await postJson(`${model.url}/judgements`, {
    count: thrown.count,
    seed: thrown.seed,
    variant: model.variant,
    camera,
    rule: thrown.rule(),
  });
  const ended = await done(job);
  if (ended) showJudgement(await getJson(`/api/judgements/${ended.subject}`), thrown);
}

/**
 * @param {JudgementState} found
 * @param {import("./thrown.js").Thrown} thrown
 */
function showJudgement(found, thrown) {
  const { columns, tile, throws, measured, verdicts } = found;
  const rows = Math.ceil(throws.length / columns);
  const picture = h("img", {
    src: `/api/judgements/${found.id}/sheet.png`,
    alt: `The outlines of ${throws.length} throws; those with a fault have a red frame`,
    width: columns * tile,
    height: rows * tile,
  });
  const mark = h("span", { class: "judged-mark", "aria-hidden": "true" });
  const words = h("p", { class: "mono", role: "status" });
  let at = 0;
  const percent = (/** @type {number} */ share) => `${(share * 100).toFixed(1)} %`;
  const choose = (/** @type {number} */ one) => {
    at = Math.min(Math.max(one, 0), throws.length - 1);
    const { hanging, through, cut, alike, area } = measured[at];
    mark.style.left = `${((at % columns) / columns) * 100}%`;
    mark.style.top = `${(Math.floor(at / columns) / rows) * 100}%`;
    mark.style.width = `${100 / columns}%`;
    mark.style.height = `${100 / rows}%`;
    words.textContent =
      `Throw ${at + 1}, seed ${throws[at].seed}: ${(area * 1e4).toFixed(0)} cm², hanging ${percent(hanging)}, ` +
      `through ${percent(through)}, cut off ${percent(cut)}, ${percent(alike)} like the one most like it`;
  };
  const board = h(
    "div",
    {
      class: "judged-board",
      tabindex: "0",
      role: "application",
      "aria-label": "Throws: arrow keys choose one, Enter shows it on the stage",
    },
    picture,
    mark,
  );
  board.addEventListener("click", (event) => {
    const box = board.getBoundingClientRect();
    const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    choose(Math.floor(y * rows) * columns + Math.floor(x * columns));
  });
  board.addEventListener("keydown", (event) => {
    const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: columns, ArrowUp: -columns }[event.key];
    if (event.key === "Enter") show.click();
    else if (by) choose(at + by);
    else return;
    event.preventDefault();
  });
  const show = h(
    "button",
    {
      type: "button",
      class: "button",
      onclick: () => {
        dialog.close();
        void thrown.show([throws[at]]);
      },
    },
    "Show this one on the stage",
  );
  const close = h("button", { type: "button", class: "button chief", onclick: () => dialog.close() }, "Close");
  const dialog = sheet(
    `${throws.length} throws by ${found.rule}`,
    h(
      "ul",
      { class: "judged-verdicts" },
      verdicts.map(({ is_good, what, mend }) =>
        h("li", { class: is_good ? "" : "wrong" }, what, mend ? h("span", { class: "quiet" }, ` ${mend}`) : null),
      ),
    ),
    board,
    words,
    h("div", { class: "row end" }, show, close),
  );
  dialog.classList.add("judged");
  choose(0);
  board.focus({ preventScroll: true });
}
