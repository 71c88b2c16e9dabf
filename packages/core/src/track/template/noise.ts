import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';

/** The difference of two Laplacians at a pixel, which even slopes and edges leave at nothing. */
const differenceAt = (pixels: Uint8Array, p: number, stride: number): number => {
  const corners =
    pixels[p - stride - 1] + pixels[p - stride + 1] + pixels[p + stride - 1] + pixels[p + stride + 1];
  const sides = pixels[p - stride] + pixels[p + stride] + pixels[p - 1] + pixels[p + 1];
  return corners - 2 * sides + 4 * pixels[p];
};

/**
 * The variance of the noise by the mean size of that difference (Immerkær 1996), or more where there is fine texture: of all of a
 * rectangle `margin` within an area, or of those pixels of it that a mask of the area's size has.
 */
export function noiseVariance(
  kernels: TrackKernels,
  { at, stride }: Pick<Patch, 'at' | 'stride'>,
  margin: number,
  width: number,
  height: number,
  mask?: Uint8Array,
): number {
  const pixels = kernels.bytes(at, stride * (height + 2 * margin));
  let [sum, count] = [0, 0];
  for (let j = margin; j < margin + height; j++) {
    for (let i = margin; i < margin + width; i++) {
      if (mask && mask[j * (width + 2 * margin) + i] === 0) continue;
      sum += Math.abs(differenceAt(pixels, j * stride + i, stride));
      count++;
    }
  }
  const sigma = count > 0 ? (Math.sqrt(Math.PI / 2) * sum) / (6 * count) : 0;
  return sigma * sigma;
}
