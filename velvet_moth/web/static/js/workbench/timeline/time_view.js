/** Which stretch of time the lanes show, and where a time is on them. */

/** No closer than so many seconds over the whole width. */
const CLOSEST = 0.2;

export class TimeView extends EventTarget {
  constructor() {
    super();
    /** Seconds at the left and right end of the lanes. */
    this.from = 0;
    this.to = 10;
    this.length = 10;
  }

  /** The graph's time is another. @param {number} length seconds */
  setLength(length) {
    if (length === this.length) return;
    const isWhole = this.from === 0 && this.to === this.length;
    this.length = length;
    if (isWhole || this.to > length) this.show(0, length);
  }

  /** @param {number} from @param {number} to */
  show(from, to) {
    const span = Math.min(Math.max(to - from, CLOSEST), this.length);
    this.from = Math.min(Math.max(from, 0), this.length - span);
    this.to = this.from + span;
    this.dispatchEvent(new Event("change"));
  }

  /** Makes a time and those about it larger. @param {number} factor @param {number} time */
  zoom(factor, time) {
    this.show(time - (time - this.from) * factor, time + (this.to - time) * factor);
  }

  /** @param {number} by seconds */
  pan(by) {
    this.show(this.from + by, this.to + by);
  }

  /** Where a time is, as a share of the width. @param {number} time */
  share(time) {
    return (time - this.from) / (this.to - this.from);
  }

  /** @param {number} time */
  percent(time) {
    return `${this.share(time) * 100}%`;
  }

  /** The time at a place on the page. @param {Element} lane @param {number} x pixels of the page */
  timeAt(lane, x) {
    const box = lane.getBoundingClientRect();
    return this.from + ((x - box.left) / box.width) * (this.to - this.from);
  }

  /** So many seconds is a pixel of a lane. @param {Element} lane */
  perPixel(lane) {
    return (this.to - this.from) / Math.max(lane.getBoundingClientRect().width, 1);
  }
}
