import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';

/** Immerkær 1996: the mean size of the difference of two Laplacians, which even slopes and edges leave at nothing. */
export function noiseVariance(
  kernels: TrackKernels,
  { at, stride }: Patch,
  margin: number,
  width: number,
  height: number,
): number {
  const pixels = kernels.bytes(at, stride * (height + 2 * margin));
  let sum = 0;
  for (let j = margin; j < margin + height; j++) {
    for (let i = margin; i < margin + width; i++) {
      const p = j * stride + i;
      const corners =
        pixels[p - stride - 1] + pixels[p - stride + 1] + pixels[p + stride - 1] + pixels[p + stride + 1];
      const sides = pixels[p - stride] + pixels[p + stride] + pixels[p - 1] + pixels[p + 1];
      sum += Math.abs(corners - 2 * sides + 4 * pixels[p]);
    }
  }
  const sigma = (Math.sqrt(Math.PI / 2) * sum) / (6 * width * height);
  return sigma * sigma;
}
