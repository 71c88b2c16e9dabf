import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Analysis, TrackPicture } from './analysis.js';
import { cutPatch, type Patch } from './patch.js';
import { equaliseContrast, fillLines, filterReach, readChannel, soften } from './filters.js';

/**
 * A rectangle of the picture, seen as `analysis` says; the border is repeated outside. `at` has `areaBytes` of room
 * for it, which is left alone where a held picture can be looked at as it is.
 */
export function readPatch(
  kernels: TrackKernels,
  picture: TrackPicture,
  analysis: Analysis,
  left: number,
  top: number,
  width: number,
  height: number,
  at: number,
): Patch {
  const { channel, filter, fields } = analysis;
  const asItIs = channel === 'luma' && filter === 'none' && fields === 'both';
  const seenPicture = asItIs ? picture : { ...picture, wasmAddress: undefined };
  const area = cutPatch(kernels, seenPicture, left, top, width, height, at);
  if (asItIs) return area;
  const across = width + 2 * filterReach;
  const down = height + 2 * filterReach;
  const seen = readChannel(picture, channel, left - filterReach, top - filterReach, across, down);
  if (fields !== 'both') fillLines(seen, across, down, top - filterReach, fields);
  if (filter === 'soften') soften(seen, across, down);
  if (filter === 'local-contrast') equaliseContrast(seen, across, down);
  const out = kernels.bytes(at, width * height);
  for (let y = 0, i = 0; y < height; y++) {
    const from = (y + filterReach) * across + filterReach;
    for (let x = 0; x < width; x++, i++) out[i] = Math.min(Math.max(seen[from + x] + 0.5, 0), 255);
  }
  return area;
}
