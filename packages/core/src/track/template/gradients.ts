import type { TrackKernels } from '../../kernels/track-kernels.js';
import { exposureRows } from '../../kernels/layout.js';
import { energyOf, rowsFor } from './pixel-set.js';
import { steepestDescent, type WarpModel } from '../../geometry/warp-model.js';
import type { Template } from './types.js';

/** The pixels of a box with a margin about it, rows `columns` long without it, and which of them lie in the picture. */
export interface TemplatePixels {
  pixels: ArrayLike<number>;
  stride: number;
  margin: number;
  columns: number;
  left: number;
  top: number;
  right: number;
  bottom: number;
}

export function meanOf({ pixels, stride, margin, left, top, right, bottom }: TemplatePixels): number {
  let sum = 0;
  for (let y = top; y < bottom; y++) {
    const row = (y + margin) * stride + margin;
    for (let x = left; x < right; x++) sum += pixels[row + x];
  }
  const seen = Math.max(right - left, 0) * Math.max(bottom - top, 0);
  return seen > 0 ? sum / seen : 0;
}

/** Takes the levels less a mean, and how each pixel answers to brightness and contrast. */
export function takeLevels(
  { pixels, stride, margin, columns, left, top, right, bottom }: TemplatePixels,
  mean: number,
  levels: Float32Array,
  images: Float32Array,
): void {
  const contrast = levels.length;
  for (let y = top; y < bottom; y++) {
    const row = (y + margin) * stride + margin;
    for (let x = left, i = y * columns + left; x < right; x++, i++) {
      levels[i] = pixels[row + x] - mean;
      images[i] = 1;
      images[contrast + i] = levels[i];
    }
  }
}

/** Takes the slope of each pixel along x and y. */
export function takeGradients(
  { pixels, stride, margin, columns, left, top, right, bottom }: TemplatePixels,
  { slope }: DerivativeFilter,
  alongX: Float32Array,
  alongY: Float32Array,
): void {
  for (let y = top; y < bottom; y++) {
    const row = (y + margin) * stride + margin;
    for (let x = left, i = y * columns + left; x < right; x++, i++) {
      alongX[i] = slope(pixels, row + x, 1, stride);
      alongY[i] = slope(pixels, row + x, stride, 1);
    }
  }
}

/** Writes how each pixel of the box answers to motion, once its slopes along x and y are there. */
export function layDescentImages(kernels: TrackKernels, { model, reach, aspect, full }: Template): void {
  const { width, height, count, descent } = full;
  const columns = count / height;
  const images = kernels.floats(descent, count * rowsFor(model));
  for (let y = 0; y < height; y++) {
    const at = exposureRows * count + y * columns;
    layRow(model, width, y - (height >> 1), reach, aspect, images, at, count);
  }
  full.energy = energyOf(kernels, full);
}

/** The same for row `v` from the centre, whose slopes along x are in `images` from `at` on, those along y `apart` from them. */
function layRow(
  model: WarpModel,
  width: number,
  v: number,
  reach: number,
  aspect: number,
  images: Float32Array,
  at: number,
  apart: number,
): void {
  for (let u = -(width >> 1), end = u + width, i = at; u < end; u++, i++)
    steepestDescent(model, images[i], images[i + apart], u, v, reach, aspect, images, i, apart);
}

/**
 * Takes the slope at a pixel along one direction, `along` and `across` being the ways to the next pixel in it and
 * beside it. `passes` is how much of the grain's variance gets through.
 */
export interface DerivativeFilter {
  passes: number;
  slope: (pixels: ArrayLike<number>, pixel: number, along: number, across: number) => number;
}

export const centralDifference: DerivativeFilter = {
  passes: 1 / 2,
  slope: (pixels, pixel, along) => (pixels[pixel + along] - pixels[pixel - along]) / 2,
};

/** −1 −2 0 2 1 along, 1 2 1 across. */
const smoothedDerivative: DerivativeFilter = {
  passes: (10 / 64) * (6 / 16),
  slope(pixels, pixel, along, across) {
    const line = (p: number): number =>
      pixels[p + 2 * along] - pixels[p - 2 * along] + 2 * (pixels[p + along] - pixels[p - along]);
    return (line(pixel - across) + 2 * line(pixel) + line(pixel + across)) / 32;
  },
};

/** Grain of this variance, and this share of the mean squared slope, is worth smoothing out of the slopes. */
export const grainy = { variance: 10, share: 0.15 };
/** Not where, grain apart, sharp slopes are so much steeper along the calm ones: that is fine texture. */
const steeper = 1.25;
/** How much of the grain's variance the two filters share. */
const sharedGrain = 1 / 8;

/** Grain in the slopes takes away from what a step can know; slopes that miss the texture make steps too long. */
export function derivativeFilterFor(
  pixels: ArrayLike<number>,
  stride: number,
  margin: number,
  width: number,
  height: number,
  grain: number,
): DerivativeFilter {
  if (grain <= grainy.variance) return centralDifference;
  const { steep, product, gentle } = gradientMoments(pixels, stride, margin, width, height);
  const both = 2 * grain * width * height;
  const isGrainy = both / 2 > grainy.share * steep;
  const coarse = product - sharedGrain * both < steeper * (gentle - smoothedDerivative.passes * both);
  return isGrainy && coarse ? smoothedDerivative : centralDifference;
}

/** Sums of the squares of the slopes that the two filters see, and of their product. */
function gradientMoments(
  pixels: ArrayLike<number>,
  stride: number,
  margin: number,
  width: number,
  height: number,
): { steep: number; product: number; gentle: number } {
  let [steep, product, gentle] = [0, 0, 0];
  for (let j = margin; j < margin + height; j++) {
    for (let i = margin; i < margin + width; i++) {
      const pixel = j * stride + i;
      for (const [along, across] of [
        [1, stride],
        [stride, 1],
      ]) {
        const edge = centralDifference.slope(pixels, pixel, along, across);
        const rise = smoothedDerivative.slope(pixels, pixel, along, across);
        steep += edge * edge;
        product += edge * rise;
        gentle += rise * rise;
      }
    }
  }
  return { steep, product, gentle };
}
