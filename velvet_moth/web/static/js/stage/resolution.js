/** Keeps the stage responsive: fewer pixels while something moves, all of them when it is still. */

const TARGET = 40;
const LEAST = 0.1;
const STILL = 150;

export class Resolution {
  /** @param {() => void} refine called once things have been still for a while */
  constructor(refine) {
    this.scale = 0.5;
    this.isMoving = false;
    this.refine = refine;
    this.timer = 0;
  }

  /** The share of the full resolution to draw at now. */
  get current() {
    // In steps, so that the canvas is not resized at every frame.
    return this.isMoving ? Math.max(LEAST, Math.round(this.scale * 20) / 20) : 1;
  }

  /** Something moved: draw coarse until it has been still. */
  moved() {
    this.isMoving = true;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => {
      this.isMoving = false;
      this.refine();
    }, STILL);
  }

  /**
   * A frame is finished on the GPU.
   * @param {number} spent ms from its start to its end
   * @param {number} at the resolution it was drawn at
   */
  drew(spent, at) {
    // Cost follows the number of pixels, so the side follows its root; a frame at full size teaches too.
    const wanted = at * Math.sqrt(TARGET / Math.max(spent, 4));
    const eased = this.scale + (wanted - this.scale) * (wanted < this.scale ? 0.7 : 0.25);
    this.scale = Math.min(1, Math.max(LEAST, eased));
  }
}
