import { inAreas, mapPlane, ShotTracker, type Areas, type ShotFrame, type TrackKernels } from '@lurn/core';
import type { Analyser, Look } from '../pass/analyser.js';

/** Where passes find this analyser. */
export const featuresModule = import.meta.url;

/** What features are looked for in, and the frame on which the pass ends. */
export interface FeaturesOrder extends Areas {
  last: number;
}

/** Follows the features of a whole clip, shot by shot, forwards; finds frames as they are settled. */
class FeaturesAnalyser implements Analyser {
  private readonly tracker: ShotTracker;

  constructor(
    private readonly kernels: TrackKernels,
    private readonly order: FeaturesOrder,
  ) {
    this.tracker = new ShotTracker(kernels, inAreas(order));
  }

  look({ picture, frame }: Look): ShotFrame[] {
    const mapped = picture.wasmAddress === undefined ? mapPlane(this.kernels, picture) : picture;
    const settled = this.tracker.look(mapped, frame);
    return frame === this.order.last ? [...settled, ...this.tracker.end()] : settled;
  }

  busyAfter(frame: number): boolean {
    return frame < this.order.last;
  }

  end(): void {
    this.tracker.end();
  }
}

export const begin = (kernels: TrackKernels, order: FeaturesOrder): Analyser =>
  new FeaturesAnalyser(kernels, order);
