import type { Mat3 } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { plainAnalysis, readArea, type TrackPicture } from './analysis.js';
import { areaBytes, type Area } from './area.js';
import { parameterCount, steepestDescent, type Shape } from './shape.js';

/**
 * What a track looks for: the pixels of its box on one frame, ready for search and registration. The box is
 * cut at whole pixels so that nothing is interpolated.
 */
export interface Template {
  /** Odd, so that the centre falls on a pixel's centre. */
  width: number;
  height: number;
  /** Pixels with the rows' padding: rows are filled up to whole vectors. */
  count: number;
  /** The box's centre on its frame, corner-origin clip pixels. */
  centre: { x: number; y: number };
  shape: Shape;
  /** Half the box's diagonal: the length that parameters of motion are counted in. */
  reach: number;
  mean: number;
  /** Grey levels less the mean; not a number in the padding and outside the picture. */
  level: number;
  /**
   * How each pixel answers, one row of `count` after another: to brightness, to contrast, then to each
   * parameter of motion.
   */
  descent: number;
  /** The box with a margin, from which turned copies are drawn. */
  surround: Area;
  margin: number;
  bytes: number;
}

/** Brightness and contrast are solved beside the motion. */
export const exposureRows = 2;

const odd = (n: number): number => Math.max(3, Math.round(n) | 1);

/**
 * Cuts a template of about `width`×`height` around (x, y), corner-origin pixels, as `analysis` sees the picture.
 * Returned to `freeTemplate`.
 */
export function cutTemplate(
  kernels: TrackKernels,
  picture: TrackPicture,
  { x, y }: { x: number; y: number },
  size: { width: number; height: number },
  shape: Shape,
  analysis = plainAnalysis,
): Template {
  const width = odd(size.width);
  const height = odd(size.height);
  const halfW = width >> 1;
  const halfH = height >> 1;
  const columns = (width + 3) & ~3;
  const count = columns * height;
  const n = parameterCount[shape];
  const margin = Math.ceil(Math.max(width, height) * 0.4) + 3;
  const across = width + 2 * margin;
  const down = height + 2 * margin;
  const rows = exposureRows + n;
  const bytes = 4 * count * (rows + 1) + areaBytes(across, down);
  const level = kernels.alloc(bytes);
  const descent = level + 4 * count;
  const left = Math.floor(x) - halfW - margin;
  const top = Math.floor(y) - halfH - margin;
  const at = descent + 4 * count * rows;
  const surround = readArea(kernels, picture, analysis, left, top, across, down, at);

  const pixels = kernels.bytes(surround.at, across * down);
  const levels = kernels.floats(level, count).fill(NaN);
  const images = kernels.floats(descent, count * rows).fill(0);
  const reach = Math.hypot(halfW, halfH);
  const { bounds } = surround;
  const answer: number[] = [];
  let sum = 0;
  let seen = 0;
  for (let v = -halfH; v <= halfH; v++) {
    for (let u = -halfW; u <= halfW; u++) {
      const i = u + halfW + margin;
      const j = v + halfH + margin;
      if (i < bounds.left || j < bounds.top || i >= bounds.right || j >= bounds.bottom) continue;
      const pixel = j * across + i;
      const out = (v + halfH) * columns + u + halfW;
      levels[out] = pixels[pixel];
      sum += pixels[pixel];
      seen++;
      const gx = (pixels[pixel + 1] - pixels[pixel - 1]) / 2;
      const gy = (pixels[pixel + across] - pixels[pixel - across]) / 2;
      steepestDescent(shape, gx, gy, u, v, reach, answer);
      images[out] = 1;
      for (let k = 0; k < n; k++) images[(exposureRows + k) * count + out] = answer[k];
    }
  }
  const mean = seen > 0 ? sum / seen : 0;
  for (let i = 0; i < count; i++) {
    levels[i] -= mean;
    if (images[i] !== 0) images[count + i] = levels[i];
  }
  const centre = { x: Math.floor(x) + 0.5, y: Math.floor(y) + 0.5 };
  return { width, height, count, centre, shape, reach, mean, level, descent, surround, margin, bytes };
}

export const freeTemplate = (kernels: TrackKernels, template: Template): void =>
  kernels.free(template.level, template.bytes);

/** A template as it looks after a turn, packed for the search on every level of its pyramid, finest last. */
export interface SearchTemplate {
  levels: { at: number; width: number; height: number }[];
  at: number;
  bytes: number;
}

const smallest = 16;
const mostLevels = 6;

const packedBytes = (width: number, height: number): number => 16 + 2 * ((width + 7) & ~7) * height;

/** Draws the template through `m` (from box to picture; its shift does not count) for the whole-pixel search. */
export function turnTemplate(kernels: TrackKernels, template: Template, m: Mat3): SearchTemplate {
  const { width, height, surround, margin, count } = template;
  const sizes = [{ width, height }];
  while (Math.min(sizes[0].width, sizes[0].height) >= smallest && sizes.length < mostLevels) {
    sizes.unshift({ width: sizes[0].width >> 1, height: sizes[0].height >> 1 });
  }
  const bytes = sizes.reduce((sum, s) => sum + ((packedBytes(s.width, s.height) + 63) & ~63), 0);
  const at = kernels.alloc(bytes);
  const seen = kernels.room('seen', 4 * count);
  const drawn = kernels.room('drawn', areaBytes(width, height));
  const half = kernels.room('half', areaBytes(width, height));

  // The picture's box shows what the inverse of the turn takes it from.
  const [a, b, c, d] = [m[0] / m[8], m[1] / m[8], m[3] / m[8], m[4] / m[8]];
  const det = a * d - b * c;
  const pose = [d / det, -b / det, margin + width / 2, -c / det, a / det, margin + height / 2, 0, 0, 1];
  const { bounds } = surround;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
  kernels.samplePatch(surround.at, surround.stride, ...box, width, height, ...pose, 0, seen);
  kernels.quantise(seen, (width + 3) & ~3, width, height, template.mean, drawn);

  const levels: SearchTemplate['levels'] = [];
  let next = at + bytes;
  let [from, other] = [drawn, half];
  for (let i = sizes.length - 1; i >= 0; i--) {
    const size = sizes[i];
    if (i < sizes.length - 1) {
      const finer = sizes[i + 1];
      kernels.halvePlane(from, finer.width, finer.width, finer.height, other);
      [from, other] = [other, from];
    }
    next -= (packedBytes(size.width, size.height) + 63) & ~63;
    kernels.packTemplate(from, size.width, size.width, size.height, next);
    levels.unshift({ at: next, ...size });
  }
  return { levels, at, bytes };
}
