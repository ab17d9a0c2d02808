/** Long work that is under way, on every page: how far it is, how long it takes yet, and how it is cancelled. */
import { getJson, postJson } from "moth/base/api.js";
import { h } from "moth/base/dom.js";
import { followNews } from "moth/base/news.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").JobState} JobState */
/** @typedef {{ title: string, share: number, isCancelled: boolean, tell: (share: number) => void, end: () => void }} OwnWork */

const UNDER_WAY = new Set(["waiting", "running"]);
/** A job that nobody has begun for so long waits for a worker, in milliseconds. */
const PATIENCE = 4000;

class Jobs extends EventTarget {
  constructor() {
    super();
    /** @type {JobState[]} */
    this.jobs = [];
    /** Those that somebody on this page waits for, by number. @type {Map<number, (job: JobState) => void>} */
    this.awaited = new Map();
    /** Long work of this page itself. @type {OwnWork[]} */
    this.works = [];
    /** When each job that waits was first seen, ms. @type {Map<number, number>} */
    this.since = new Map();
    this.place = h("section", { id: "jobs", "aria-label": "Long work", hidden: true });
    document.body.append(this.place);
    const load = () => void this.load().catch(tell);
    followNews((news) => news.job && load(), load);
    load();
  }

  async load() {
    ({ jobs: this.jobs } = await getJson("/api/jobs"));
    for (const job of this.jobs) {
      if (UNDER_WAY.has(job.state)) continue;
      this.awaited.get(job.id)?.(job);
      this.awaited.delete(job.id);
    }
    this.#draw();
    this.dispatchEvent(new Event("changed"));
  }

  /**
   * Resolves once a job has ended, whatever way.
   * @param {JobState} job
   * @returns {Promise<JobState>}
   */
  ended(job) {
    return new Promise((resolve) => {
      this.awaited.set(job.id, resolve);
      this.load().catch(tell);
    });
  }

  /**
   * A row for long work that this page does by itself.
   * @param {string} title
   * @returns {OwnWork}
   */
  own(title) {
    const work = {
      title,
      share: 0,
      isCancelled: false,
      tell: (/** @type {number} */ share) => {
        work.share = share;
        this.#draw();
      },
      end: () => {
        this.works = this.works.filter((one) => one !== work);
        this.#draw();
      },
    };
    this.works.push(work);
    this.#draw();
    return work;
  }

  #draw() {
    const running = this.jobs.filter(({ state }) => UNDER_WAY.has(state));
    this.place.hidden = !running.length && !this.works.length;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.job;
    const own = this.works.map((work) => {
      const words = work.isCancelled ? "ends" : `${Math.round(work.share * 100)} %`;
      return rowOf(work.title, work.share, words, `own ${work.title}`, () => {
        work.isCancelled = true;
        this.#draw();
      });
    });
    this.place.replaceChildren(...own, ...running.map((job) => this.#row(job)));
    if (focus) /** @type {HTMLElement | null} */ (this.place.querySelector(`[data-job="${focus}"]`))?.focus();
  }

  /** @param {JobState} job */
  #row({ id, title, state, share, left }) {
    if (!this.since.has(id)) this.since.set(id, performance.now());
    const waits = state === "waiting" && performance.now() - (this.since.get(id) ?? 0) > PATIENCE;
    if (state === "waiting" && !waits) setTimeout(() => this.#draw(), PATIENCE + 50);
    const words =
      state === "waiting"
        ? waits
          ? "waits for a worker: ./moth up and ./moth work run them"
          : "waits"
        : [`${Math.round(share * 100)} %`, left === null ? "" : leftWords(left)].filter(Boolean).join(", ");
    const cancel = async () => {
      try {
        await postJson(`/api/jobs/${id}/cancel`);
        await this.load();
      } catch (error) {
        tell(error);
      }
    };
    return rowOf(title, share, words, String(id), () => void cancel());
  }
}

/**
 * @param {string} title
 * @param {number} share
 * @param {string} words
 * @param {string} key
 * @param {() => void} cancel
 */
const rowOf = (title, share, words, key, cancel) =>
  h(
    "div",
    { class: "job" },
    h("span", {}, title),
    h("progress", { max: 1, value: share, "aria-label": title }),
    h("span", { class: "quiet mono" }, words),
    h(
      "button",
      {
        type: "button",
        class: "button small",
        "aria-label": `Cancel: ${title}`,
        onclick: cancel,
        data: { job: key },
      },
      "Cancel",
    ),
  );

/** @param {number} seconds */
const leftWords = (seconds) =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s left` : `${Math.round(seconds / 60)} min left`;

export const jobs = new Jobs();

/**
 * Waits for a job that this page has asked for, and says how it ended where that is not well.
 * @param {JobState} job
 * @returns {Promise<JobState | null>} the job in the end; null where it was not done
 */
export async function done(job) {
  const ended = await jobs.ended(job);
  const { state, title, words } = ended;
  if (state === "failed") notice(`${title} did not work. ${words}`, { wrong: true, stay: true });
  else if (state === "cancelled") notice(`${title} was cancelled.`);
  return state === "done" ? ended : null;
}
