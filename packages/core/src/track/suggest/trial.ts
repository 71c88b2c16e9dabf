import { apply, type Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { TrackPicture } from '../image/analysis.js';
import { defaultPointOptions, type PointTrackerOptions } from '../options.js';
import { PointTracker } from '../point/point-tracker.js';
import { SampleState } from '../samples.js';
import { SceneMotion, type SceneChange } from '../scene/scene-motion.js';

/** Pictures that come one after another away from one of the clip, which is not among them. */
export type Way = readonly TrackPicture[];

/** How a place was followed. */
export interface Tried {
  /** The mean confidence, 0–1, up to a cut at most. */
  surely: number;
  /** How far it goes, each frame, from where the whole picture goes, pixels; null where that is not known. */
  relativeVelocity: number | null;
}

/** In so many pictures each way its movement is seen beside the whole picture's. */
const compared = 2;

/**
 * Follows places of a picture a little way into those about it. One picture says how well a place is held; whether a box
 * shows things at two depths, or water, or leaves, only the next ones say.
 */
export class Trial {
  private readonly ways: { pictures: readonly TrackPicture[]; scenes: (() => SceneChange)[] }[];

  constructor(
    private readonly kernels: TrackKernels,
    private readonly relativeVelocity: TrackPicture,
    ways: readonly Way[],
  ) {
    this.ways = ways.map((pictures) => {
      const watch = new SceneMotion(kernels);
      const all = [relativeVelocity, ...pictures];
      const scenes = pictures.map((picture, i) => {
        let change: SceneChange | undefined;
        const before = { picture: all[i], frame: i };
        return () => (change ??= watch.compare(before, { picture, frame: i + 1 }));
      });
      return { pictures, scenes };
    });
  }

  /** How a place is followed; null where there is no picture to try. */
  of(at: Point, options: Partial<PointTrackerOptions>): Tried | null {
    const tracker = new PointTracker(this.kernels, { ...defaultPointOptions, ...options });
    tracker.setKey(this.relativeVelocity, { ...at, rotation: 0, scale: 1 });
    let [sum, tried] = [0, 0];
    const relativeVelocity: number[] = [];
    for (const { pictures, scenes } of this.ways) {
      tracker.returnToKey();
      let along: Point | null = at;
      for (let k = 0; k < pictures.length; k++) {
        const { x, y, confidence, state } = tracker.step(pictures[k], scenes[k]);
        if (tracker.cut) break;
        sum += confidence;
        tried++;
        if (state === SampleState.lost) {
          tried += pictures.length - k - 1;
          break;
        }
        if (!along || k >= compared) continue;
        const { motion }: SceneChange = scenes[k]();
        along = motion && apply(motion, along.x, along.y);
        if (along && k === compared - 1)
          relativeVelocity.push(Math.hypot(x - along.x, y - along.y) / compared);
      }
    }
    tracker.dispose();
    // What comes to rest, or sets out, goes its own way on one side only.
    return tried > 0
      ? {
          surely: sum / tried,
          relativeVelocity: relativeVelocity.length > 0 ? Math.max(...relativeVelocity) : null,
        }
      : null;
  }
}
