/** The keys of a graph on its page: whose track holds, what it gives now, and what a change of a keyed value does. */
import { valueAt } from "moth/workbench/model/pieces.js";

/** @typedef {import("./model.js").GraphModel} GraphModel */
/** @typedef {import("../../types.d.ts").Pieces} Pieces */
/** @typedef {import("../../types.d.ts").TrackState} TrackState */
/** @typedef {import("../../types.d.ts").Track} Track */
/** @typedef {import("../../types.d.ts").Key} Key */
/** @typedef {import("../../types.d.ts").Value} Value */

export class Keys {
  /** @param {GraphModel} model */
  constructor(model) {
    this.model = model;
    /** The moment that is shown, in seconds. */
    this.time = 0;
    /** The pieces of tracks as they are drawn at the moment, by target. @type {Map<string, Pieces>} */
    this.drawn = new Map();
    /** @type {Map<string, TrackState>} */
    this.known = new Map();
    /** Whether the stage plays them: not those of a motif that is edited in its place. */
    this.isPlayed = true;
    /** Whether keys set by hand go to whole frames. */
    this.snaps = true;
  }

  /** Takes up the tracks of another state. @param {TrackState[]} tracks */
  take(tracks) {
    this.known = new Map(tracks.map((track) => [`${track.variant} ${track.target}`, track]));
    this.drawn.clear();
  }

  /** Whose tracks hold for a variant, by target. @param {string} variant @returns {Record<string, string>} */
  owners(variant = this.model.variant) {
    const { track_owners: owners } = this.model.state;
    return owners[variant] ?? owners[""];
  }

  /** Every target that is keyed for a variant. @param {string} [variant] */
  targets(variant) {
    return Object.keys(this.owners(variant)).filter((target) => this.stateOf(target, variant));
  }

  /** The nodes that have a keyed value. @returns {Set<string>} */
  get nodes() {
    const targets = new Set(this.targets());
    return new Set(this.model.state.document.parameters.filter(({ id }) => targets.has(id)).map(({ node }) => node));
  }

  /** Whether a value of a node is keyed. @param {string} node @param {string} input */
  isKeyed(node, input) {
    const parameter = this.model.parameterAt(node, input);
    return !!parameter && !!this.stateOf(parameter.id);
  }

  /**
   * The track that holds for a variant.
   * @param {string} target
   * @param {string} [variant]
   * @returns {TrackState | undefined}
   */
  stateOf(target, variant) {
    const owner = this.owners(variant)[target];
    return owner === undefined ? undefined : this.known.get(`${owner} ${target}`);
  }

  /**
   * Its keys, as the document has them.
   * @param {string} target
   * @param {string} [variant]
   * @returns {Track | undefined}
   */
  trackOf(target, variant) {
    const owner = this.owners(variant)[target];
    const { document: graph } = this.model.state;
    const tracks = owner ? graph.variants.find(({ id }) => id === owner)?.tracks : owner === "" ? graph.tracks : {};
    return tracks?.[target];
  }

  /**
   * @param {string} target
   * @param {string} [variant]
   * @returns {Pieces | undefined}
   */
  piecesOf(target, variant = this.model.variant) {
    const drawn = variant === this.model.variant ? this.drawn.get(target) : undefined;
    return drawn ?? this.stateOf(target, variant)?.pieces;
  }

  /**
   * What a keyed target is at the moment; undefined where it is not keyed.
   * @param {string} target
   * @param {string} [variant]
   * @returns {Value | undefined}
   */
  now(target, variant) {
    const pieces = this.piecesOf(target, variant);
    return pieces && valueAt(pieces, this.time);
  }

  /** A key no farther from a moment than this, in seconds, is at it: half a frame. */
  get reach() {
    return 0.5 / this.model.state.document.timing.rate + 1e-6;
  }

  /** The key of a target at the moment. @param {string} target @returns {Key | undefined} */
  keyHere(target) {
    const near = (/** @type {Key} */ key) => Math.abs(key.time - this.time);
    const keys = [...(this.trackOf(target)?.keys ?? [])].sort((one, other) => near(one) - near(other));
    return keys.length && near(keys[0]) <= this.reach ? keys[0] : undefined;
  }

  /** The time of a key that is set now. */
  get moment() {
    return this.snaps ? this.snapped(this.time) : this.time;
  }

  /** The time of the nearest frame. @param {number} time */
  snapped(time) {
    const { rate } = this.model.state.document.timing;
    return Math.round(time * rate) / rate;
  }

  /**
   * Has a target be a value at the moment: changes the key that is there, or sets one.
   * @param {string} target
   * @param {Value} value
   * @param {boolean} inSteps
   */
  set(target, value, inSteps) {
    const here = this.keyHere(target);
    const before = (this.trackOf(target)?.keys ?? []).filter((key) => key.time <= this.time).at(-1);
    const way = inSteps ? "hold" : (before?.way ?? "smooth");
    const key = here ? { ...here, value } : { time: this.moment, value, way };
    return this.model.edit({ op: "change_keys", target, put: [key], variant: this.model.variant });
  }

  /** Takes away the key at the moment. @param {string} target */
  remove(target) {
    const here = this.keyHere(target);
    if (!here) return Promise.resolve(false);
    return this.model.edit({ op: "change_keys", target, remove: [here.time], variant: this.model.variant });
  }

  /** What changing the value of a keyed target now does, in words. @param {string} target */
  wordsFor(target) {
    const here = this.keyHere(target);
    const own = this.owners()[target] === this.model.variant ? "" : `, of ${this.model.currentVariant?.name} alone`;
    return here
      ? `changes the key at ${secondsText(here.time)}${own}`
      : `sets a key at ${secondsText(this.moment)}${own}`;
  }
}

/** Seconds for people. @param {number} seconds */
export const secondsText = (seconds) => `${Number(seconds.toFixed(3))} s`;
