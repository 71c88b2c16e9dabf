import type { TrackKernels } from '../../kernels/track-kernels.js';
import { findWeakModes } from './observability.js';
import { layDescentImages, centralDifference } from '../template/gradients.js';
import { rowsFor, gradientsOf, takePixels } from '../template/pixel-set.js';
import type { Template } from '../template/types.js';

/** After so many pictures the slopes are taken anew from their mean. */
const enoughPictures = [2, 5, 12, 40];

/**
 * Grain in the slopes takes away from what a registration can know. It is another one in every picture: where the
 * template has grain, the mean of what it has been seen like has less of it. Only slopes are taken from there: what
 * the picture is compared with stays the key's. `seen` holds what was seen under the box, a float for each pixel,
 * under an exposure. Returns whether the slopes have changed.
 */
export function refreshGradients(
  kernels: TrackKernels,
  template: Template,
  seen: number,
  { gain, bias }: { gain: number; bias: number },
): boolean {
  const { runningSum, full, grain } = template;
  if (!runningSum || runningSum.times >= enoughPictures[enoughPictures.length - 1]) return false;
  const { sum } = runningSum;
  const levels = kernels.floats(seen, full.count);
  // A pixel that was outside once stays unknown.
  for (let i = 0; i < sum.length; i++) sum[i] += (levels[i] - bias) / gain;
  const times = ++runningSum.times;
  if (!enoughPictures.includes(times)) return false;
  const own = kernels.floats(full.level, full.count);
  const mean = Float32Array.from(sum, (total, i) => (total + own[i]) / (times + 1));
  const columns = full.count / full.height;
  const { width, height } = full;
  const left = grain / (times + 1);
  const [alongX, alongY] = gradientsOf(kernels, full);
  for (let y = 0; y < height; y++)
    for (let x = 0, i = y * columns; x < width; x++, i++) {
      const [gx, gy] = [
        centralDifference.slope(mean, i, 1, columns),
        centralDifference.slope(mean, i, columns, 1),
      ];
      // Pixels that have not been seen all about keep what they had.
      if (!Number.isFinite(gx + gy)) continue;
      alongX[i] = gx;
      alongY[i] = gy;
    }
  layDescentImages(kernels, template);
  for (const pixelSet of [template.subsample, template.gradientRuns])
    takePixels(kernels, full, pixelSet, rowsFor(template.model));
  template.gradientNoise = centralDifference.passes * left;
  findWeakModes(kernels, template);
  return true;
}
