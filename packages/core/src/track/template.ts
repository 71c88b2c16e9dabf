import type { Mat3, Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { plainAnalysis, readArea, type TrackPicture } from './analysis.js';
import { areaBytes, type Area } from './area.js';
import { findUntold } from './damping.js';
import {
  allOf,
  energyOf,
  exposureRows,
  gridBytes,
  latticeIn,
  latticeOf,
  placeGrid,
  recordGrid,
  rowsFor,
  runsIn,
  runsOf,
  slopesOf,
  takePixels,
  type Grid,
  type GridSize,
} from './grid.js';
import { steepestDescent, type Shape } from './shape.js';
import type { Untold } from './untold.js';

/**
 * What a track looks for: the pixels of its box on one frame, ready for search and registration. The box is
 * cut at whole pixels so that nothing is interpolated.
 */
export interface Template {
  /** Odd, so that the centre falls on a pixel's centre. */
  width: number;
  height: number;
  /** The box's centre on its frame, corner-origin clip pixels. */
  centre: { x: number; y: number };
  shape: Shape;
  /** Half the box's diagonal: the length that parameters of motion are counted in. */
  reach: number;
  /** A pixel's width over its height. */
  aspect: number;
  mean: number;
  /** Variance of its noise, at most: fine texture counts as noise. */
  grain: number;
  /** What grain puts into the squared gradients of each direction. */
  falseSlope: number;
  /** Ways of moving that its texture may not tell, and how far its middle goes along, pixels a radian or a share of its size. */
  untold: Untold[];
  lever: number;
  /** How far from its middle what holds it lies, pixels. */
  aside: number;
  /** Pictures since it was cut, and how often its grain has been looked for in what is left over, which had so much of it. */
  age: number;
  grainLooks: number;
  falseSlopeSeen: number;
  /** Where there is grain: what the template was seen like since, from which its slopes are taken anew. */
  seenSince: { sum: Float32Array; times: number } | null;
  /** What a copy of it has been smeared by, as a picture is. */
  smear: Point | null;
  full: Grid;
  /** Enough of them to find the way by; all of a small box. */
  lattice: Grid;
  /** Where most is to be seen; all of a small box. */
  runs: Grid;
  /** The box with a margin, from which turned copies are drawn. */
  surround: Area;
  margin: number;
  /** Its memory. */
  start: number;
  bytes: number;
}

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
  const margin = Math.ceil(Math.max(width, height) * 0.4) + 3;
  const across = width + 2 * margin;
  const down = height + 2 * margin;
  const rows = rowsFor(shape);
  const [whole, sparse, best] = [allOf(width, height), latticeOf(width, height), runsOf(width, height)];
  const own = gridBytes(whole, rows) + gridBytes(sparse, rows) + gridBytes(best, rows);
  const bytes = own + areaBytes(across, down);
  const start = kernels.alloc(bytes);
  const full = placeGrid(start, whole, rows);
  const { count, level, descent } = full;
  const columns = count / height;
  const left = Math.floor(x) - halfW - margin;
  const top = Math.floor(y) - halfH - margin;
  const at = start + own;
  // A copy: the template outlives the picture.
  const lent = { ...picture, heldAt: undefined };
  const surround = readArea(kernels, lent, analysis, left, top, across, down, at);

  const pixels = kernels.bytes(surround.at, across * down);
  const reach = Math.hypot(halfW, halfH);
  const aspect = picture.pixelAspect ?? 1;
  const { bounds } = surround;
  const grain = noiseVariance(kernels, surround, margin, width, height);
  const filter = slopeFilterFor(pixels, across, margin, width, height, grain);
  const seen: Seen = {
    pixels,
    stride: across,
    margin,
    columns,
    left: Math.max(bounds.left - margin, 0),
    top: Math.max(bounds.top - margin, 0),
    right: Math.min(bounds.right - margin, width),
    bottom: Math.min(bounds.bottom - margin, height),
  };
  const images = kernels.floats(descent, count * rows).fill(0);
  const mean = meanOf(seen);
  takeLevels(seen, mean, kernels.floats(level, count).fill(NaN), images);
  const centre = { x: Math.floor(x) + 0.5, y: Math.floor(y) + 0.5 };
  const part = (at: number, size: GridSize): Grid =>
    size.count === count ? full : placeGrid(at, size, rows);
  const lattice = part(start + gridBytes(whole, rows), sparse);
  const runs = part(start + gridBytes(whole, rows) + gridBytes(sparse, rows), best);
  const template: Template = {
    width,
    height,
    centre,
    shape,
    reach,
    aspect,
    mean,
    grain,
    falseSlope: filter.passes * grain,
    untold: [],
    lever: 0,
    aside: 0,
    age: 0,
    grainLooks: 0,
    falseSlopeSeen: 0,
    full,
    lattice,
    runs,
    surround,
    margin,
    start,
    bytes,
    seenSince: grain > grainy.variance ? { sum: new Float32Array(count), times: 0 } : null,
    smear: null,
  };
  const [alongX, alongY] = slopesOf(kernels, full);
  takeSlopes(seen, filter, alongX, alongY);
  layDescent(kernels, template);
  if (lattice !== full) lattice.from = latticeIn(full, lattice);
  if (runs !== full) runs.from = runsIn(kernels, full, runs);
  for (const grid of new Set([full, lattice, runs])) {
    takePixels(kernels, full, grid, rows);
    recordGrid(kernels, grid, template);
  }
  findUntold(kernels, template);
  return template;
}

/** The pixels of a box with a margin about it, rows `columns` long without it, and which of them lie in the picture. */
export interface Seen {
  pixels: ArrayLike<number>;
  stride: number;
  margin: number;
  columns: number;
  left: number;
  top: number;
  right: number;
  bottom: number;
}

function meanOf({ pixels, stride, margin, left, top, right, bottom }: Seen): number {
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
  { pixels, stride, margin, columns, left, top, right, bottom }: Seen,
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
export function takeSlopes(
  { pixels, stride, margin, columns, left, top, right, bottom }: Seen,
  { slope }: SlopeFilter,
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
export function layDescent(kernels: TrackKernels, { shape, reach, aspect, full }: Template): void {
  const { width, height, count, descent } = full;
  const columns = count / height;
  const images = kernels.floats(descent, count * rowsFor(shape));
  for (let y = 0; y < height; y++) {
    const at = exposureRows * count + y * columns;
    layRow(shape, width, y - (height >> 1), reach, aspect, images, at, count);
  }
  full.energy = energyOf(kernels, full);
}

/** The same for row `v` from the centre, whose slopes along x are in `images` from `at` on, those along y `apart` from them. */
function layRow(
  shape: Shape,
  width: number,
  v: number,
  reach: number,
  aspect: number,
  images: Float32Array,
  at: number,
  apart: number,
): void {
  for (let u = -(width >> 1), end = u + width, i = at; u < end; u++, i++)
    steepestDescent(shape, images[i], images[i + apart], u, v, reach, aspect, images, i, apart);
}

/** After so many pictures the slopes are taken anew from their mean. */
const enoughPictures = [2, 5, 12, 40];

/**
 * Grain in the slopes takes away from what a registration can know. It is another one in every picture: where the
 * template has grain, the mean of what it has been seen like has less of it. Only slopes are taken from there: what
 * the picture is compared with stays the key's. `seen` holds what was seen under the box, a float for each pixel,
 * under an exposure. Returns whether the slopes have changed.
 */
export function learnSlopes(
  kernels: TrackKernels,
  template: Template,
  seen: number,
  { gain, bias }: { gain: number; bias: number },
): boolean {
  const { seenSince, full, grain } = template;
  if (!seenSince || seenSince.times >= enoughPictures[enoughPictures.length - 1]) return false;
  const { sum } = seenSince;
  const levels = kernels.floats(seen, full.count);
  // A pixel that was outside once stays unknown.
  for (let i = 0; i < sum.length; i++) sum[i] += (levels[i] - bias) / gain;
  const times = ++seenSince.times;
  if (!enoughPictures.includes(times)) return false;
  const own = kernels.floats(full.level, full.count);
  const mean = Float32Array.from(sum, (total, i) => (total + own[i]) / (times + 1));
  const columns = full.count / full.height;
  const { width, height } = full;
  const left = grain / (times + 1);
  const [alongX, alongY] = slopesOf(kernels, full);
  for (let y = 0; y < height; y++)
    for (let x = 0, i = y * columns; x < width; x++, i++) {
      const [gx, gy] = [sharp.slope(mean, i, 1, columns), sharp.slope(mean, i, columns, 1)];
      // Pixels that have not been seen all about keep what they had.
      if (!Number.isFinite(gx + gy)) continue;
      alongX[i] = gx;
      alongY[i] = gy;
    }
  layDescent(kernels, template);
  for (const grid of [template.lattice, template.runs])
    takePixels(kernels, full, grid, rowsFor(template.shape));
  template.falseSlope = sharp.passes * left;
  findUntold(kernels, template);
  return true;
}

/**
 * Takes the slope at a pixel along one direction, `along` and `across` being the ways to the next pixel in it and
 * beside it. `passes` is how much of the grain's variance gets through.
 */
interface SlopeFilter {
  passes: number;
  slope: (pixels: ArrayLike<number>, pixel: number, along: number, across: number) => number;
}

export const sharp: SlopeFilter = {
  passes: 1 / 2,
  slope: (pixels, pixel, along) => (pixels[pixel + along] - pixels[pixel - along]) / 2,
};

/** −1 −2 0 2 1 along, 1 2 1 across. */
const calm: SlopeFilter = {
  passes: (10 / 64) * (6 / 16),
  slope(pixels, pixel, along, across) {
    const line = (p: number): number =>
      pixels[p + 2 * along] - pixels[p - 2 * along] + 2 * (pixels[p + along] - pixels[p - along]);
    return (line(pixel - across) + 2 * line(pixel) + line(pixel + across)) / 32;
  },
};

/** Grain of this variance, and this share of the mean squared slope, is worth smoothing out of the slopes. */
const grainy = { variance: 10, share: 0.15 };
/** Not where, grain apart, sharp slopes are so much steeper along the calm ones: that is fine texture. */
const steeper = 1.25;
/** How much of the grain's variance the two filters share. */
const sharedGrain = 1 / 8;

/** Grain in the slopes takes away from what a step can know; slopes that miss the texture make steps too long. */
function slopeFilterFor(
  pixels: ArrayLike<number>,
  stride: number,
  margin: number,
  width: number,
  height: number,
  grain: number,
): SlopeFilter {
  if (grain <= grainy.variance) return sharp;
  const { steep, product, gentle } = slopesTogether(pixels, stride, margin, width, height);
  const both = 2 * grain * width * height;
  const isGrainy = both / 2 > grainy.share * steep;
  const coarse = product - sharedGrain * both < steeper * (gentle - calm.passes * both);
  return isGrainy && coarse ? calm : sharp;
}

/** Sums of the squares of the slopes that the two filters see, and of their product. */
function slopesTogether(
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
        const edge = sharp.slope(pixels, pixel, along, across);
        const rise = calm.slope(pixels, pixel, along, across);
        steep += edge * edge;
        product += edge * rise;
        gentle += rise * rise;
      }
    }
  }
  return { steep, product, gentle };
}

/** Immerkær 1996: the mean size of the difference of two Laplacians, which even slopes and edges leave at nothing. */
function noiseVariance(
  kernels: TrackKernels,
  { at, stride }: Area,
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

export const freeTemplate = (kernels: TrackKernels, { start, bytes }: Template): void =>
  kernels.free(start, bytes);

/** Where of the box a search template was taken: the middle of its part, picture pixels from the box's middle. */
export interface SearchTemplate {
  levels: { at: number; width: number; height: number }[];
  at: number;
  bytes: number;
  middle: { x: number; y: number };
}

const smallest = 16;
const mostLevels = 6;

const packedBytes = (width: number, height: number): number =>
  (16 + 2 * ((width + 7) & ~7) * height + 63) & ~63;

/** What the template looks like through `m` (from box to picture; its shift does not count), in bytes at `drawn`. */
function drawTurned(kernels: TrackKernels, template: Template, m: Mat3): number {
  const { width, height, surround, margin, full } = template;
  const seen = kernels.room('seen', 4 * full.count);
  const drawn = kernels.room('drawn', areaBytes(width, height));
  // The picture's box shows what the inverse of the turn takes it from.
  const [a, b, c, d] = [m[0] / m[8], m[1] / m[8], m[3] / m[8], m[4] / m[8]];
  const det = a * d - b * c;
  const pose = [d / det, -b / det, margin + width / 2, -c / det, a / det, margin + height / 2, 0, 0, 1];
  const { bounds } = surround;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
  kernels.samplePatch(surround.at, surround.stride, ...box, width, height, ...pose, 0, seen);
  kernels.quantise(seen, (width + 3) & ~3, width, height, template.mean, drawn);
  return drawn;
}

/** Draws the template through `m` for the whole-pixel search. Freed by `freeSearchTemplate`. */
export function turnTemplate(kernels: TrackKernels, template: Template, m: Mat3): SearchTemplate {
  const { width, height } = template;
  return packPart(kernels, drawTurned(kernels, template, m), width, { x: 0, y: 0, width, height }, template);
}

/** The same for the four halves of the box, each of which finds its place though the other is covered. */
export function turnHalves(kernels: TrackKernels, template: Template, m: Mat3): SearchTemplate[] {
  const { width, height } = template;
  const drawn = drawTurned(kernels, template, m);
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const parts = [
    { x: 0, y: 0, width: w, height },
    { x: width - w, y: 0, width: w, height },
    { x: 0, y: 0, width, height: h },
    { x: 0, y: height - h, width, height: h },
  ];
  return parts.map((part) => packPart(kernels, drawn, width, part, template));
}

export const freeSearchTemplate = (kernels: TrackKernels, { at, bytes }: SearchTemplate): void =>
  kernels.free(at, bytes);

/** Packs a rectangle of drawn bytes on every level of its pyramid, finest last. */
function packPart(
  kernels: TrackKernels,
  drawn: number,
  stride: number,
  part: { x: number; y: number; width: number; height: number },
  box: { width: number; height: number },
): SearchTemplate {
  const sizes = [{ width: part.width, height: part.height }];
  while (Math.min(sizes[0].width, sizes[0].height) >= smallest && sizes.length < mostLevels) {
    sizes.unshift({ width: sizes[0].width >> 1, height: sizes[0].height >> 1 });
  }
  const bytes = sizes.reduce((sum, s) => sum + packedBytes(s.width, s.height), 0);
  const at = kernels.alloc(bytes);
  const rooms = ['half', 'quarter'].map((name) => kernels.room(name, areaBytes(box.width, box.height)));
  const levels: SearchTemplate['levels'] = [];
  let next = at + bytes;
  let from = { at: drawn + part.y * stride + part.x, stride };
  for (let i = sizes.length - 1; i >= 0; i--) {
    const size = sizes[i];
    if (i < sizes.length - 1) {
      const finer = sizes[i + 1];
      const to = rooms[i % 2];
      kernels.halvePlane(from.at, from.stride, finer.width, finer.height, to);
      from = { at: to, stride: size.width };
    }
    next -= packedBytes(size.width, size.height);
    kernels.packTemplate(from.at, from.stride, size.width, size.height, next);
    levels.unshift({ at: next, ...size });
  }
  const middle = {
    x: part.x + part.width / 2 - box.width / 2,
    y: part.y + part.height / 2 - box.height / 2,
  };
  return { levels, at, bytes, middle };
}
