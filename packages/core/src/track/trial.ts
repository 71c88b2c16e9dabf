import type { Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { TrackPicture } from './analysis.js';
import { defaultPointOptions, PointTracker, type PointTrackerOptions } from './point-tracker.js';
import { SampleState } from './samples.js';
import { SceneWatch, type SceneChange } from './scene-watch.js';

/** Pictures that come one after another away from one of the clip, which is not among them. */
export type Way = readonly TrackPicture[];

/**
 * Follows places of a picture a little way into those about it. One picture says how well a place is held; whether a box
 * shows things at two depths, or water, or leaves, only the next ones say.
 */
export class Trial {
  private readonly ways: { pictures: readonly TrackPicture[]; scenes: (() => SceneChange)[] }[];

  constructor(
    private readonly kernels: TrackKernels,
    private readonly own: TrackPicture,
    ways: readonly Way[],
  ) {
    this.ways = ways.map((pictures) => {
      const watch = new SceneWatch(kernels);
      const all = [own, ...pictures];
      const scenes = pictures.map((picture, i) => {
        let change: SceneChange | undefined;
        const before = { picture: all[i], frame: i };
        return () => (change ??= watch.compare(before, { picture, frame: i + 1 }));
      });
      return { pictures, scenes };
    });
  }

  /** The mean confidence of a place, 0–1, up to a cut at most; null where there is no picture to try. */
  of(at: Point, options: Partial<PointTrackerOptions>): number | null {
    const tracker = new PointTracker(this.kernels, { ...defaultPointOptions, ...options });
    tracker.setKey(this.own, { ...at, rotation: 0, scale: 1 });
    let [sum, tried] = [0, 0];
    for (const { pictures, scenes } of this.ways) {
      tracker.returnToKey();
      for (let k = 0; k < pictures.length; k++) {
        const { confidence, state } = tracker.step(pictures[k], scenes[k]);
        if (tracker.cut) break;
        sum += confidence;
        tried++;
        if (state === SampleState.lost) {
          tried += pictures.length - k - 1;
          break;
        }
      }
    }
    tracker.dispose();
    return tried > 0 ? sum / tried : null;
  }
}
