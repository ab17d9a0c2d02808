/** What edits did to the view and to where cards are, so that undo and redo bring that back too. */

/** @typedef {[number, number]} Point */
/** @typedef {{ x: number, y: number, zoom: number }} Eye */
/**
 * @typedef {object} Moved what one edit moved: from, and to
 * @property {[Eye, Eye] | null} view
 * @property {[Map<string, Point>, Map<string, Point>] | null} places
 */

/** @param {Eye} eye @returns {Eye} */
const eyeOf = ({ x, y, zoom }) => ({ x, y, zoom });

export class Retracing {
  /**
   * @param {import("./viewport.js").Viewport} view
   * @param {import("./placing.js").Placing} placing
   */
  constructor(view, placing) {
    this.view = view;
    this.placing = placing;
    /** By the number of the edit. @type {Map<number, Moved>} */
    this.edits = new Map();
    /** What undo would take back and redo do again, when the graph was shown last. */
    this.last = { undo: 0, redo: 0 };
    /** Where cards were before an edit that lays them out and is on its way. @type {Map<string, Point> | null} */
    this.leaving = null;
  }

  /** Cards are laid out by the edit that comes next. */
  leave() {
    this.leaving = new Map(this.placing.places);
  }

  /**
   * The newest edit moves the view.
   * @param {number} edit
   * @param {() => void} move
   */
  moving(edit, move) {
    const from = eyeOf(this.view);
    move();
    const places = this.edits.get(edit)?.places ?? null;
    this.edits.set(edit, { view: [from, eyeOf(this.view)], places });
  }

  /**
   * The graph is shown after an edit, an undo, or a redo.
   * @param {number} undo the number of the edit that undo would take back; 0 for none
   * @param {number} redo that of the one that redo would do again
   */
  follow(undo, redo) {
    const { last } = this;
    this.last = { undo, redo };
    if (last.undo && last.undo === redo) return this.#bring(redo, 0);
    if (last.redo && last.redo === undo) return this.#bring(undo, 1);
    if (undo > last.undo && this.leaving) {
      this.edits.set(undo, { view: null, places: [this.leaving, this.leaving] });
      this.leaving = null;
    }
  }

  /** @param {number} edit @param {0 | 1} to */
  #bring(edit, to) {
    const moved = this.edits.get(edit);
    if (!moved) return;
    const { view, places } = moved;
    if (places) {
      if (!to) places[1] = new Map(this.placing.places);
      this.placing.bring(places[to]);
    }
    // Where a hand has moved the view since, it stays there.
    const [now, left] = view ? [eyeOf(this.view), view[1 - to]] : [];
    if (view && now && left && now.x === left.x && now.y === left.y && now.zoom === left.zoom) this.view.set(view[to]);
  }
}
