import { multiply, translation, type Mat3, type Point } from '../../../geometry/mat3.js';
import type { TrackKernels } from '../../../kernels/track-kernels.js';
import { patchBytes, type Patch } from '../../image/patch.js';
import { damp } from '../observability.js';
import {
  allOf,
  pixelSetBytes,
  placePixelSet,
  recordPixelSet,
  rowsFor,
  gradientsOf,
} from '../../template/pixel-set.js';
import {
  layDescentImages,
  centralDifference,
  takeLevels,
  takeGradients,
  type TemplatePixels,
} from '../../template/gradients.js';
import type { Template } from '../../template/types.js';

/** How something moved while it was exposed: a straight way, from end to end, pixels. */
export type BlurPath = Point;

/**
 * What makes a template and a picture alike where one was exposed while it moved: the template is blurred as the picture is,
 * and the picture as the template was already. Both in pixels of the template's box.
 */
export interface BlurPaths {
  template: BlurPath | null;
  picture: BlurPath | null;
}

/** A way in the template's box as the picture has it. */
export const transformPath = (m: Mat3, { x, y }: BlurPath): BlurPath => ({
  x: (m[0] * x + m[1] * y) / m[8],
  y: (m[3] * x + m[4] * y) / m[8],
});

/** What a box of odd size shows of a plane through `m` while it is carried along a way of the plane, in floats. */
function exposed(
  kernels: TrackKernels,
  { at, stride, bounds: { left, top, right, bottom } }: Pick<Patch, 'at' | 'stride' | 'bounds'>,
  width: number,
  height: number,
  m: Mat3,
  along: BlurPath | null,
): Float32Array {
  const sum = new Float32Array(((width + 3) & ~3) * height);
  const there = kernels.scratch('moment', 4 * sum.length);
  // Moments no farther apart than a pixel, the first and the last half as long.
  const steps = along ? Math.ceil(Math.hypot(along.x, along.y)) : 0;
  for (let k = 0; k <= steps; k++) {
    const t = along ? k / steps - 0.5 : 0;
    const [x, y] = [t * (along?.x ?? 0), t * (along?.y ?? 0)];
    const n = along ? multiply(translation(x, y), m) : m;
    // prettier-ignore
    kernels.samplePatch(
      at, stride, left, top, right, bottom, width, height,
      n[0], n[1], n[2], n[3], n[4], n[5], n[6], n[7], n[8], 1, there,
    );
    const share = along ? (k === 0 || k === steps ? 0.5 : 1) / steps : 1;
    const levels = kernels.floats(there, sum.length);
    for (let i = 0; i < sum.length; i++) sum[i] += share * levels[i];
  }
  return sum;
}

/** Columns of a box with a pixel about it, rows filled up to whole vectors. */
export const columnsAbout = (width: number): number => (width + 5) & ~3;

/** Levels of a template's box and a pixel about it, as they look blurred. Not numbers beside the picture's border. */
export function blurredLevels(
  kernels: TrackKernels,
  { width, height, surround, margin }: Template,
  blur: BlurPath | null,
): Float32Array {
  const middle = translation(margin + width / 2, margin + height / 2);
  return exposed(kernels, surround, width + 2, height + 2, middle, blur);
}

/** What is seen where a template lies, a float for each pixel of its grid, blurred as the template was. */
export function blurredView(
  kernels: TrackKernels,
  { width, height }: Template,
  area: Patch,
  matrix: Mat3,
  blur: BlurPath | null,
): Float32Array {
  const pose = multiply(translation(-area.left, -area.top), matrix);
  return exposed(kernels, area, width, height, pose, blur && transformPath(matrix, blur));
}

/** A part of a picture, blurred. It serves until the next is made. */
export function blurPatch(kernels: TrackKernels, area: Patch, blur: BlurPath): Patch {
  const [width, height] = [(area.width - 1) | 1, (area.height - 1) | 1];
  const levels = exposed(kernels, area, width, height, translation(width / 2, height / 2), blur);
  const columns = levels.length / height;
  const from = kernels.scratch('smeared floats', 4 * levels.length);
  const at = kernels.scratch('smeared area', patchBytes(width, height));
  kernels.floats(from, levels.length).set(levels);
  kernels.quantise(from, columns, width, height, 0, at);
  const [x, y] = [Math.abs(blur.x) / 2 + 1, Math.abs(blur.y) / 2 + 1];
  const { left, top, right, bottom } = area.bounds;
  const bounds = {
    left: left + x,
    top: top + y,
    right: Math.min(right - x, width - 2),
    bottom: Math.min(bottom - y, height - 2),
  };
  return { at, width, height, stride: width, left: area.left, top: area.top, bounds };
}

/** A template as it looks when the picture is blurred; null beside the picture's border. It serves until the next is made. */
export function blurTemplate(
  kernels: TrackKernels,
  template: Template,
  blur: BlurPath | null,
): Template | null {
  const { width, height, mean, model, grain, gradientNoise } = template;
  const rows = rowsFor(model);
  const whole = allOf(width, height);
  const full = placePixelSet(kernels.scratch('smeared', pixelSetBytes(whole, rows)), whole, rows);
  const { count, level, descent } = full;
  const seen: TemplatePixels = {
    pixels: blurredLevels(kernels, template, blur),
    stride: columnsAbout(width),
    margin: 1,
    columns: count / height,
    left: 0,
    top: 0,
    right: width,
    bottom: height,
  };
  const images = kernels.floats(descent, count * rows).fill(0);
  takeLevels(seen, mean, kernels.floats(level, count).fill(NaN), images);
  const [alongX, alongY] = gradientsOf(kernels, full);
  takeGradients(seen, centralDifference, alongX, alongY);
  const length = Math.max(blur ? Math.hypot(blur.x, blur.y) : 0, 1);
  const like: Template = {
    ...template,
    full,
    subsample: full,
    gradientRuns: full,
    blur: blur ?? { x: 0, y: 0 },
    runningSum: null,
    // The picture's grain is as it was, the template's is blurred, and next to nothing in the slopes.
    grain: (grain * (1 + 1 / length)) / 2,
    gradientNoise: gradientNoise / length,
  };
  layDescentImages(kernels, like);
  // Levels that are not numbers leave no energy that is one.
  if (!(full.energy < Infinity)) return null;
  recordPixelSet(kernels, full, like);
  damp(kernels, like);
  return like;
}
