/** The keys of a graph: a lane for each value that is keyed, under one ruler. */
import { menu } from "moth/base/dialogs.js";
import { byId, follow, h } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { Refused, postJson } from "moth/base/api.js";
import { keep, kept } from "moth/base/settings.js";
import { showMark } from "moth/workbench/shared/key_mark.js";
import { Chosen } from "moth/workbench/timeline/chosen.js";
import { KEY_ACTS } from "moth/workbench/timeline/key_acts.js";
import { keySheet } from "moth/workbench/timeline/key_sheet.js";
import { makeLane } from "moth/workbench/timeline/lane.js";
import { makeRuler } from "moth/workbench/timeline/ruler.js";
import { sceneTargets, sceneValue } from "moth/workbench/timeline/scene_values.js";
import { TimeView } from "moth/workbench/timeline/time_view.js";
import { pressOnTimeline } from "moth/workbench/timeline/timeline_keys.js";
import { makeRow, valueNow } from "moth/workbench/timeline/track_row.js";

/** @typedef {import("../model/model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").Key} Key */
/** @typedef {import("../../types.d.ts").Track} Track */

const NO_KEYS =
  "Nothing is keyed yet. Press the mark beside a parameter to key its value at the moment shown, or key the scene.";

/** While time runs, values are shown so often, in milliseconds. */
const OFTEN = 120;
/** A step of the wheel shows so much more or less time. */
const WHEEL = 0.0015;

export class TracksPanel {
  /**
   * @param {GraphModel} model
   * @param {import("../../stage/stage.js").Stage | null} stage
   */
  constructor(model, stage) {
    this.model = model;
    this.stage = stage;
    this.view = new TimeView();
    this.chosen = new Chosen(model.keys);
    /** The targets whose curves are open. @type {Set<string>} */
    this.open = new Set();
    /** The target whose lane has the keyboard. */
    this.row = "";
    /** The key that Tab goes to. */
    this.tabStop = "";
    /** The stretch that repeats; null for all of the time. @type {{ from: number, to: number } | null} */
    this.stretch = null;
    /** Tracks as they are drawn at the moment, by target. @type {Map<string, Track>} */
    this.drafts = new Map();
    this.isAsking = false;
    this.shown = 0;
    this.isWanted = kept("tracks", true);
    /** Whether it is shown though nothing is keyed yet. */
    this.isAsked = false;
    this.area = byId("tracks");
    this.body = byId("tracks-body");
    this.#listen();
  }

  #listen() {
    const { model, chosen, view } = this;
    model.addEventListener("state", () => this.#take());
    model.addEventListener("time", () => this.#pass());
    chosen.addEventListener("change", () => this.#draw());
    view.addEventListener("change", () => this.#draw());
    byId("tracks-add").addEventListener("click", () => this.#add());
    byId("tracks-acts").addEventListener("click", () => this.#acts());
    byId("tracks-close").addEventListener("click", () => this.show(false));
    byId("tracks-open").addEventListener("click", () => this.show(!this.isShown));
    byId("key-before").addEventListener("click", () => this.jump(-1));
    byId("key-after").addEventListener("click", () => this.jump(1));
    byId("key-way").replaceChildren(
      h("option", { value: "" }, "Goes on …"),
      ...Object.entries(model.settings.ways).map(([value, { name, words }]) =>
        h("option", { value, title: words }, name),
      ),
    );
    byId("key-way").addEventListener("change", () => {
      if (byId("key-way").value) void this.ease(chosen.list, byId("key-way").value);
    });
    byId("key-snap").addEventListener("change", () => (model.keys.snaps = byId("key-snap").checked));
    this.area.addEventListener("keydown", (/** @type {KeyboardEvent} */ event) => pressOnTimeline(this, event));
    this.area.addEventListener("focusin", (/** @type {FocusEvent} */ event) => this.#focused(event));
    this.body.addEventListener("wheel", (/** @type {WheelEvent} */ event) => this.#turn(event), { passive: false });
    new ResizeObserver(() => this.#draw()).observe(this.body);
  }

  get isShown() {
    return this.isWanted && (this.isAsked || this.model.keys.targets().length > 0);
  }

  /** @param {boolean} isOn */
  show(isOn) {
    this.isAsked = isOn;
    keep("tracks", (this.isWanted = isOn));
    this.#take();
    byId("tracks-open").focus({ preventScroll: true });
  }

  get laneWidth() {
    return Math.max(this.body.clientWidth - 230, 1);
  }

  /** The track of a target, as it is drawn at the moment. @param {string} target @returns {Track} */
  trackOf(target) {
    const none = /** @type {Track} */ ({ keys: [], before: "hold", after: "hold", path: "light" });
    return this.drafts.get(target) ?? this.model.keys.trackOf(target) ?? none;
  }

  #take() {
    this.drafts.clear();
    const { length } = this.model.state.document.timing;
    // A stretch of the old time is no stretch of the new one.
    if (length !== this.view.length) this.stretch = null;
    this.view.setLength(length);
    this.chosen.refresh();
    this.#draw();
  }

  /** Everything as the document has it. */
  refresh() {
    this.#take();
  }

  #draw() {
    if (!this.model.state) return;
    const { isShown } = this;
    const count = this.model.keys.targets().length;
    const open = byId("tracks-open");
    open.textContent = count ? `Keys ${count}` : "Keys";
    open.title = "Show or hide the keys of each value";
    open.setAttribute("aria-pressed", String(isShown));
    document.querySelector(".bench")?.classList.toggle("keyed", isShown);
    this.area.hidden = !isShown;
    if (!isShown) return;
    const focus = /** @type {HTMLElement | null} */ (document.activeElement)?.dataset.focus;
    const scroll = this.body.scrollTop;
    const targets = this.targets;
    const known = targets.flatMap((target) => this.trackOf(target).keys.map((key) => `${target} ${key.time}`));
    if (!known.includes(this.tabStop)) this.tabStop = known[0] ?? "";
    const rows = targets.flatMap((target) => [makeRow(this, target), makeLane(this, target)]);
    this.playhead = h("span", { class: "playhead", "aria-hidden": "true" });
    const over = h("div", { class: "over-lanes" }, this.playhead);
    this.body.replaceChildren(h("div", { class: "ruler-head quiet" }, this.#chosenWords()), makeRuler(this), ...rows);
    over.style.height = `${this.body.scrollHeight}px`;
    this.body.append(over);
    if (!count) this.body.append(h("p", { class: "no-keys quiet" }, NO_KEYS));
    this.body.scrollTop = scroll;
    this.#showWay();
    this.#movePlayhead();
    if (focus?.startsWith("key.") || focus?.startsWith("track.") || focus?.startsWith("slope."))
      this.body.querySelector(`[data-focus="${CSS.escape(focus)}"]`)?.focus({ preventScroll: true });
  }

  #chosenWords() {
    const { count } = this.chosen;
    return count ? `${count} chosen` : "";
  }

  /** The way on from the chosen keys, where it is the same for all. */
  #showWay() {
    const way = byId("key-way");
    const ways = this.chosen.list.flatMap(({ target, times }) =>
      this.trackOf(target)
        .keys.filter((key) => times.includes(key.time))
        .map((key) => key.way),
    );
    way.disabled = !ways.length;
    way.value = ways.length && ways.every((one) => one === ways[0]) ? ways[0] : "";
    byId("tracks-acts").disabled = !ways.length;
  }

  /** In the order of the parameters, then the scene. */
  get targets() {
    const order = new Map(this.model.state.document.parameters.map(({ id }, at) => [id, at]));
    const place = (/** @type {string} */ target) => order.get(target) ?? Infinity;
    return this.model.keys.targets().sort((one, other) => place(one) - place(other) || one.localeCompare(other));
  }

  /** Another moment is shown. */
  #pass() {
    if (!this.isShown) return;
    this.#movePlayhead();
    const now = performance.now();
    if (this.stage?.isPlaying && now - this.shown < OFTEN) return;
    this.shown = now;
    for (const head of this.body.querySelectorAll(".track-head")) {
      const value = head.querySelector(".track-value");
      const text = valueNow(this, head.dataset.target);
      if (value.textContent !== text) value.textContent = text;
      showMark(this.model, head.querySelector(".key-mark"));
    }
  }

  #movePlayhead() {
    if (!this.playhead) return;
    const share = this.view.share(this.model.keys.time);
    this.playhead.hidden = share < 0 || share > 1;
    this.playhead.style.left = `${share * 100}%`;
  }

  /** Goes to a moment. @param {number} time seconds */
  pass(time) {
    if (this.stage) this.stage.setTime(time);
    else this.model.passTo(time);
  }

  /** Goes to the next key of any row, or of the chosen ones. @param {1 | -1} way */
  jump(way) {
    const { keys } = this.model;
    const rows = this.chosen.count ? [...this.chosen.times.keys()] : this.targets;
    const times = rows.flatMap((target) => this.trackOf(target).keys.map((key) => key.time));
    const beyond = times.filter((time) => (time - keys.time) * way > 1e-6);
    if (beyond.length) this.pass(way > 0 ? Math.min(...beyond) : Math.max(...beyond));
  }

  /** The lane of a target that is on the page now: it is drawn again whenever something changes. @param {string} target */
  laneOf(target) {
    return /** @type {HTMLElement} */ (this.body.querySelector(`.lane[data-target="${CSS.escape(target)}"]`));
  }

  /** @param {string} target */
  toggle(target) {
    if (!this.open.delete(target)) this.open.add(target);
    this.#draw();
  }

  /** Shows the chosen keys where they would be. @param {(time: number) => number} moved */
  preview(moved) {
    for (const mark of this.body.querySelectorAll(".key.chosen"))
      mark.style.left = this.view.percent(Math.max(moved(Number(mark.dataset.time)), 0));
  }

  /**
   * Shows keys as they are being drawn, here and on the stage, before they are kept.
   * @param {string} target
   * @param {Track} track
   */
  draft(target, track) {
    this.drafts.set(target, track);
    if (!this.isAsking) void this.#ask(target).catch(tell);
  }

  /** @param {string} target */
  async #ask(target) {
    this.isAsking = true;
    try {
      // While one answer is on its way the hand goes on: the newest is asked for next.
      for (let asked = null; this.drafts.get(target) !== asked && this.drafts.has(target);) {
        asked = /** @type {Track} */ (this.drafts.get(target));
        const pieces = await postJson(`${this.model.url}/pieces`, { target, track: asked });
        if (!this.drafts.has(target)) return;
        this.model.keys.drawn.set(target, pieces);
        this.#redrawCurve(target);
        this.stage?.setTime(this.stage.time);
      }
    } catch (error) {
      // What cannot be is not shown; letting go of it says why.
      if (!(error instanceof Refused)) throw error;
    } finally {
      this.isAsking = false;
    }
  }

  /** Only the curve of a lane: its marks are in a hand. @param {string} target */
  #redrawCurve(target) {
    const lane = this.laneOf(target);
    const fresh = makeLane(this, target);
    for (const part of [".curves", ".band"]) {
      const drawn = fresh.querySelector(part);
      if (drawn) lane?.querySelector(part)?.replaceWith(drawn);
    }
  }

  /**
   * Keeps a key in the place of another.
   * @param {string} target
   * @param {Key} key
   * @param {Key} made
   */
  async put(target, key, made) {
    const { keys } = this.model;
    const time = made.time !== key.time && keys.snaps ? keys.snapped(made.time) : made.time;
    const remove = time === key.time ? [] : [key.time];
    this.chosen.set([{ target, times: [time] }]);
    this.tabStop = `${target} ${time}`;
    const { variant } = this.model;
    const done = await this.model.edit({ op: "change_keys", target, put: [{ ...made, time }], remove, variant });
    if (!done) this.refresh();
  }

  /** @param {{ target: string, times: number[] }[]} chosen @param {string} way */
  ease(chosen, way) {
    return this.model.craft({ craft: "ease_keys", chosen, way, variant: this.model.variant });
  }

  /** @param {string} target @param {number} time @param {HTMLElement} anchor */
  typeKey(target, time, anchor) {
    keySheet(this, target, time, anchor);
  }

  /** @param {number} from @param {number} to */
  setStretch(from, to) {
    this.stretch = to - from > 0.05 ? { from, to } : null;
    this.#repeat();
    this.#draw();
  }

  #repeat() {
    if (!this.stage) return;
    this.stage.stretch = this.stretch ?? { from: 0, to: this.model.state.document.timing.length };
  }

  /** A press beside keys chooses what a box drawn from there holds, or nothing. @param {PointerEvent} start @param {HTMLElement} lane */
  box(start, lane) {
    if (start.button !== 0) return;
    start.preventDefault();
    const isMore = start.shiftKey || start.ctrlKey || start.metaKey;
    const frame = h("span", { class: "key-box" });
    const home = this.body.getBoundingClientRect();
    let box = { left: 0, right: 0, top: 0, bottom: 0 };
    this.body.append(frame);
    follow(
      start,
      (dx, dy) => {
        const [x, y] = [start.clientX, start.clientY];
        box = {
          left: Math.min(x, x + dx),
          right: Math.max(x, x + dx),
          top: Math.min(y, y + dy),
          bottom: Math.max(y, y + dy),
        };
        frame.style.left = `${box.left - home.left}px`;
        frame.style.top = `${box.top - home.top + this.body.scrollTop}px`;
        frame.style.width = `${box.right - box.left}px`;
        frame.style.height = `${box.bottom - box.top}px`;
      },
      (moved) => {
        frame.remove();
        if (!moved) {
          if (!isMore) this.chosen.clear();
          return this.pass(
            this.model.keys.snaps
              ? this.model.keys.snapped(this.view.timeAt(lane, start.clientX))
              : this.view.timeAt(lane, start.clientX),
          );
        }
        /** @type {Map<string, number[]>} */
        const found = new Map();
        for (const mark of this.body.querySelectorAll(".key")) {
          const at = mark.getBoundingClientRect();
          const [x, y] = [(at.left + at.right) / 2, (at.top + at.bottom) / 2];
          if (x < box.left || x > box.right || y < box.top || y > box.bottom) continue;
          found.set(mark.dataset.target, [...(found.get(mark.dataset.target) ?? []), Number(mark.dataset.time)]);
        }
        this.chosen.set(
          [...found].map(([target, times]) => ({ target, times })),
          isMore,
        );
      },
    );
  }

  /** @param {FocusEvent} event */
  #focused({ target }) {
    const { dataset } = /** @type {HTMLElement} */ (target);
    if (dataset.target) this.row = dataset.target;
    if (dataset.time === undefined) return;
    this.tabStop = `${dataset.target} ${dataset.time}`;
    for (const mark of this.body.querySelectorAll(".key[tabindex='0']")) mark.tabIndex = -1;
    /** @type {HTMLElement} */ (target).tabIndex = 0;
  }

  /** @param {WheelEvent} event */
  #turn(event) {
    const lane = this.body.querySelector(".ruler");
    if (!lane) return;
    if (event.ctrlKey || event.metaKey)
      this.view.zoom(Math.exp(event.deltaY * WHEEL), this.view.timeAt(lane, event.clientX));
    else if (event.shiftKey || event.deltaX) this.view.pan((event.deltaX || event.deltaY) * this.view.perPixel(lane));
    else return;
    event.preventDefault();
  }

  /** What of the scene is not keyed yet. */
  #add() {
    const { model, stage } = this;
    if (!stage) return;
    const free = sceneTargets(model, stage).filter(([target]) => !model.keys.stateOf(target));
    menu(
      byId("tracks-add"),
      free.map(([target, name]) => [name, () => void model.keys.set(target, sceneValue(model, stage, target), false)]),
    );
  }

  #acts() {
    menu(
      byId("tracks-acts"),
      KEY_ACTS.map(({ name, keys, run }) => [name, () => void run(this), keys[0]]),
    );
  }
}
