/** Keeps the stage responsive: fewer pixels while something moves, all of them when it is still. */

const TARGET = 42;
const LEAST = 0.2;
const STILL = 150;

export class Resolution {
  /** @param {() => void} refine called once things have been still for a while */
  constructor(refine) {
    this.scale = 0.6;
    this.isMoving = false;
    this.refine = refine;
    this.last = 0;
    this.timer = 0;
  }

  /** The share of the full resolution to draw at now. */
  get current() {
    return this.isMoving ? this.scale : 1;
  }

  /** Something moved: draw coarse until it has been still. */
  moved() {
    if (!this.isMoving) this.last = 0;
    this.isMoving = true;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => {
      this.isMoving = false;
      this.refine();
    }, STILL);
  }

  /** @param {number} now the time of a frame drawn while moving, in ms */
  drew(now) {
    const spent = now - this.last;
    if (this.isMoving && this.last && spent < 1000) {
      const wanted = this.scale * Math.sqrt(TARGET / Math.max(spent, 8));
      const eased = this.scale + (wanted - this.scale) * 0.3;
      this.scale = Math.min(1, Math.max(LEAST, eased));
    }
    this.last = now;
  }
}
