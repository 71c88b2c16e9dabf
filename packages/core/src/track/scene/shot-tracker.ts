import type { Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { MappedPlane } from '../image/patch.js';
import { FeatureTracker, type FeatureFrame } from './feature-tracker.js';

/** A frame that is settled: which shot it belongs to, and what was followed on it; nothing where it is bridged. */
export interface ShotFrame extends FeatureFrame {
  shot: number;
}

/** Pictures that follow from each other, but not from what came before, are a new shot from so many on. */
const newShot = 6;

/**
 * Follows features through a whole clip, shot by shot. Where a picture does not follow from the last one, it may be a cut, or
 * a flash, a black frame, a blur: that is told by what comes next. If a later picture follows from the last good one, those
 * between are bridged; if what comes next goes on by itself, a new shot began.
 */
export class ShotTracker {
  private readonly kernels: TrackKernels;
  private current: FeatureTracker;
  private shot = 0;
  private ids = 0;
  /** Frames that did not follow, until it is known why; those from `pending` on follow from each other. */
  private unsettled: FeatureFrame[] = [];
  private pending: FeatureTracker | null = null;
  private pendingFrom = 0;
  private last = -1;
  /** Whether the current tracker has followed anything from one picture to another. */
  private hasFollowed = false;

  constructor(
    kernels: TrackKernels,
    private readonly mayLook?: (at: Point) => boolean,
  ) {
    this.kernels = kernels;
    this.current = this.tracker();
  }

  /** Looks at the next picture; returns the frames that are settled by it, in order. */
  look(picture: MappedPlane, frame: number): ShotFrame[] {
    const isFirst = this.last < 0;
    this.last = frame;
    const found = this.attempt(this.current, picture, frame);
    if (found) {
      if (!isFirst) this.hasFollowed = true;
      const bridged = this.unsettled.map((one) => this.bridged(one.frame));
      this.dropPending();
      return [...bridged, { ...found, shot: this.shot }];
    }
    const next = this.pending && this.attempt(this.pending, picture, frame);
    if (!next) {
      this.pending?.end();
      this.pending = this.tracker();
      this.pendingFrom = frame;
    }
    this.unsettled.push(next ?? (this.pending as FeatureTracker).step(picture, frame) ?? emptyFrame(frame));
    return frame - this.pendingFrom + 1 >= newShot && (this.pending as FeatureTracker).holds
      ? this.settle()
      : [];
  }

  /** What is left at the end of the clip, settled. */
  end(): ShotFrame[] {
    const left =
      this.pending && this.last > this.pendingFrom
        ? this.settle()
        : this.unsettled.map((one) => this.bridged(one.frame));
    this.dropPending();
    this.current.end();
    return left;
  }

  /** One step; where the picture went too far for flow, once more from where the coarse copies say it went. */
  private attempt(tracker: FeatureTracker, picture: MappedPlane, frame: number): FeatureFrame | null {
    const found = tracker.step(picture, frame);
    if (found || !tracker.holds) return found;
    const shift = tracker.coarseShift(picture);
    return shift && tracker.step(picture, frame, shift);
  }

  private settle(): ShotFrame[] {
    // Where nothing was ever followed, as when a picture fades in, no shot has ended.
    const next = this.hasFollowed ? this.shot + 1 : this.shot;
    const settled = this.unsettled.map((one) =>
      one.frame < this.pendingFrom ? this.bridged(one.frame) : { ...one, shot: next },
    );
    this.shot = next;
    this.current.end();
    this.current = this.pending as FeatureTracker;
    this.hasFollowed = true;
    this.pending = null;
    this.unsettled = [];
    return settled;
  }

  private tracker(): FeatureTracker {
    return new FeatureTracker(this.kernels, () => this.ids++, this.mayLook);
  }

  private bridged(frame: number): ShotFrame {
    return { ...emptyFrame(frame), shot: this.shot };
  }

  private dropPending(): void {
    this.pending?.end();
    this.pending = null;
    this.unsettled = [];
  }
}

const emptyFrame = (frame: number): FeatureFrame => ({
  frame,
  ids: new Int32Array(0),
  places: new Float32Array(0),
});
