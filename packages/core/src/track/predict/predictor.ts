import type { Point } from '../../geometry/mat3.js';

/** Innovations below this, in pixels, say nothing. */
const leastInnovation = 0.7;
/** How far off a prediction is thought to be, in pixels, while nothing is known. */
const unknown = 3;
/** How fast uncertainty grows while the point is missing, pixels a frame. */
const wandering = 2;
const wanderingWithAll = 0.2;
/** What is left of the velocity a frame later while the point is missing. */
const keptVelocity = 0.9;
/** A point that moves this much against the picture, in pixels a frame, goes its own way. */
const ownWay = 1;

const nowhere: Point = { x: 0, y: 0 };
const blend = (old: Point, fresh: Point, share: number): Point => ({
  x: (1 - share) * old.x + share * fresh.x,
  y: (1 - share) * old.y + share * fresh.y,
});

/** A root mean square over the last few, of which the latest counts by a share. */
const lately = (before: number, off: number, share: number): number =>
  Math.sqrt((1 - share) * before ** 2 + share * off ** 2);

/** How a point has been moving from frame to frame, and how far it may be from where that leads it. */
export class Predictor {
  /** The latest, pixels a frame. */
  velocity = nowhere;
  /** Frames since the point was last seen. */
  missing = 0;
  /** A mean of what goes against the whole picture. */
  private meanRelativeVelocity = nowhere;
  /** How far off the prediction usually is, pixels. */
  innovation = unknown;
  /** The same of where the whole picture leads it. */
  sceneInnovation = unknown;

  /** Begins anew where nothing is known of how the point came there. */
  forget(): void {
    this.velocity = nowhere;
    this.meanRelativeVelocity = nowhere;
    this.innovation = unknown;
    this.sceneInnovation = unknown;
  }

  /** Farther than this from the prediction, in pixels, a find is a leap. */
  get gateRadius(): number {
    return 2 + 4 * Math.max(this.innovation, leastInnovation) + wandering * this.missing;
  }

  /** The same from where the whole picture leads it, if it has been steady. */
  get sceneGateRadius(): number {
    return (
      2 +
      4 * Math.max(this.sceneInnovation, leastInnovation) +
      (this.followsScene ? wanderingWithAll : wandering) * this.missing
    );
  }

  /** What the point moves against the whole picture, pixels a frame; nothing where it goes with it. */
  get relativeVelocity(): Point {
    return Math.hypot(this.meanRelativeVelocity.x, this.meanRelativeVelocity.y) > ownWay
      ? this.meanRelativeVelocity
      : nowhere;
  }

  /** Whether it has gone where the whole picture led it, with what it moves against that. */
  get isSteady(): boolean {
    return this.sceneInnovation < ownWay;
  }

  /** Whether it has gone where the whole picture went, and no way of its own. */
  get followsScene(): boolean {
    return this.isSteady && this.relativeVelocity === nowhere;
  }

  /** Whether it has been seen to go a way of its own. */
  get leavesScene(): boolean {
    return this.sceneInnovation !== unknown && !this.followsScene;
  }

  /** Takes note of where the point went, and where it would have gone with the whole picture. */
  compare(mine: Point, all: Point): void {
    const { x, y } = this.relativeVelocity;
    this.sceneInnovation = lately(
      this.sceneInnovation,
      Math.hypot(mine.x - all.x - x, mine.y - all.y - y),
      0.5,
    );
    this.meanRelativeVelocity = blend(
      this.meanRelativeVelocity,
      { x: mine.x - all.x, y: mine.y - all.y },
      0.5,
    );
  }

  /** The point was seen at `here`, thought to be at `wanted`, and at `last` a frame ago. */
  seen(here: Point, wanted: Point, last: Point): void {
    // What was missing has been moved along by guesses: they tell no speed.
    if (this.missing === 0) {
      const off = Math.hypot(here.x - wanted.x, here.y - wanted.y);
      this.innovation = lately(this.innovation, off, 0.2);
      this.velocity = blend(this.velocity, { x: here.x - last.x, y: here.y - last.y }, 0.8);
    }
    this.missing = 0;
  }

  lost(): void {
    this.missing++;
    this.velocity = blend(this.velocity, nowhere, 1 - keptVelocity);
  }
}
