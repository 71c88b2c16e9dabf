import type { Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { TrackPicture } from '../image/analysis.js';
import { blend, noChange } from './place-curve.js';
import type { FollowOptions, Offset } from '../options.js';
import { PointTracker } from './point-tracker.js';
import { RegionTracker } from '../region/region-tracker.js';
import type { Reason } from '../sample-reason.js';
import { SampleState, type Place, type PlaceGiven, type Sample, type Samples } from '../samples.js';
import type { SceneChange } from '../scene/scene-motion.js';

/** A bridged sample is worth so much of the less sure of its two ends. */
const bridgedWorth = 0.6;
/** A point must be seen on so many frames before a gap is filled. */
const surelyBack = 3;

/** What a pass has follow: a point or a region. Only regions ask which frame it is. */
interface Follower {
  readonly cut: boolean;
  readonly middle: Point;
  readonly thought: Place;
  readonly relativeVelocity: Point;
  setKey(picture: TrackPicture, key: PlaceGiven, offset: Point | undefined, frame: number): void;
  resumeFrom(sample: PlaceGiven): void;
  step(
    picture: TrackPicture,
    scene: (() => SceneChange) | undefined,
    drift: Point | undefined,
    frame: number,
  ): Sample;
  dispose(): void;
}

/**
 * One pass of a track in one direction: takes the template of each hand-placed key it comes to, follows, and
 * deals with gaps as told. It writes into `path`, which holds the keys; keys are never overwritten. A track
 * that was lost takes heart again at the next key.
 */
export class PointPass {
  private readonly tracker: Follower;
  /** What the pass itself found on frames that hold a key. */
  readonly arrivals = new Map<number, Sample>();
  private state: 'waiting' | 'following' | 'lost' = 'waiting';
  private last = -1;
  /** Frames below the threshold since the point was last seen, and those seen since. */
  private gap: number[] = [];
  private seenSince: number[] = [];
  /** Where the point came back, less where it was thought to be. */
  private off: Place | null = null;
  /** How it moved against the picture when it went. */
  private ownBefore: Point = { x: 0, y: 0 };

  constructor(
    kernels: TrackKernels,
    readonly options: FollowOptions,
    readonly path: Samples,
    private readonly offsets: readonly Offset[] = [],
    /** Whether it is one of many, as `PointTracker` asks. */
    sparing = false,
  ) {
    const { region, below } = options;
    const goesOn = below !== 'stop';
    this.tracker = region
      ? new RegionTracker(kernels, { ...options, region }, goesOn)
      : new PointTracker(kernels, options, goesOn, sparing);
  }

  /** Whether it still follows; a lost one may wake at a key. */
  get following(): boolean {
    return this.state === 'following';
  }

  /** The middle of the box on the last picture. */
  get middle(): Point {
    return this.tracker.middle;
  }

  dispose(): void {
    this.tracker.dispose();
  }

  /** Starts at a frame whose sample is no key, with the look of a key elsewhere. */
  startFrom(keyPicture: TrackPicture, key: number, frame: number): void {
    this.takeKey(keyPicture, key);
    this.tracker.resumeFrom(this.path.place(frame));
    this.last = frame;
    this.state = 'following';
  }

  /** Looks at the next frame of the pass, as `PointTracker.step` does. Returns the frames whose samples have changed. */
  look(picture: TrackPicture, frame: number, scene?: () => SceneChange, drift?: Point): number[] {
    const isKey = this.path.state[frame] === SampleState.placed;
    if (!isKey && (this.state !== 'following' || frame === this.last)) return [];
    const changed: number[] = [];
    if (this.state === 'following' && frame !== this.last) {
      const sample = this.tracker.step(picture, scene, drift, frame);
      if (isKey) this.arrivals.set(frame, sample);
      else {
        this.path.set(frame, sample);
        changed.push(frame);
      }
      const seen = isKey || sample.state === SampleState.tracked;
      changed.push(...(seen ? this.found(frame, isKey) : this.missed(frame)));
    }
    if (isKey) {
      this.takeKey(picture, frame);
      this.gap = [];
      this.seenSince = [];
      this.state = 'following';
    }
    this.last = frame;
    return changed;
  }

  /** The pass has come to its end. Returns the frames whose samples have changed. */
  finish(): number[] {
    const changed = this.seenSince.length > 0 ? this.bridge() : [];
    this.gap = [];
    return changed;
  }

  private takeKey(picture: TrackPicture, frame: number): void {
    // The offset in force is that of the latest key at or before this one.
    const keyOffset = this.offsets.filter((o) => o.frame <= frame).sort((a, b) => b.frame - a.frame)[0];
    this.tracker.setKey(picture, this.path.place(frame), keyOffset, frame);
  }

  private missed(frame: number): number[] {
    const { below, longestGap } = this.options;
    const changed = this.seenSince.length > 0 ? this.bridge() : [];
    if (this.gap.length === 0) this.ownBefore = this.tracker.relativeVelocity;
    this.gap.push(frame);
    const over = below === 'stop' || (below === 'bridge' && this.gap.length > longestGap);
    if (over || this.tracker.cut) {
      this.state = 'lost';
      this.gap = [];
    }
    return changed;
  }

  private found(frame: number, isKey: boolean): number[] {
    if (this.gap.length === 0) return [];
    if (this.seenSince.length === 0) {
      const { thought } = this.tracker;
      const here = this.path.place(frame);
      this.off = blend((c) => here[c] - thought[c]);
    }
    this.seenSince.push(frame);
    return isKey || this.seenSince.length >= surelyBack ? this.bridge() : [];
  }

  /**
   * Fills the gap with where the point was thought to be, which knows how the whole picture moved; what that was off by
   * when the point came back is taken off along the way, by a cubic that goes into its own movement at both ends.
   */
  private bridge(): number[] {
    const { gap, path, off } = this;
    const back = this.seenSince[0];
    this.gap = [];
    this.seenSince = [];
    if (this.options.below !== 'bridge' || gap.length === 0 || !off) return [];
    const before = gap[0] - Math.sign(back - gap[0]);
    const length = back - before;
    const relativeVelocity = this.tracker.relativeVelocity;
    const faster = {
      ...noChange,
      x: relativeVelocity.x - this.ownBefore.x,
      y: relativeVelocity.y - this.ownBefore.y,
    };
    const worth = bridgedWorth * Math.min(path.confidence[before], path.confidence[back]);
    for (const frame of gap) {
      const t = (frame - before) / length;
      const [far, turning] = [t * t * (3 - 2 * t), t * t * (t - 1) * length];
      const thought = path.place(frame);
      const place = blend((c) => thought[c] + far * off[c] + turning * faster[c]);
      const reason = path.reason[frame] as Reason;
      path.set(frame, { ...place, confidence: worth, state: SampleState.bridged, reason });
    }
    return gap;
  }
}
