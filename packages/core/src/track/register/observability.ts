import { invert, multiply } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';
import { rowsFor, gradientsOf, type PixelSet } from '../template/pixel-set.js';
import { costCurvature, codecNoiseFloor, type RegistrationResult } from '../certainty/cost-probes.js';
import { increment } from '../../geometry/warp-model.js';
import type { Template } from '../template/types.js';
import { dampingMatrixOf, dampingWeight, learn, driftOf, weakModesOf, type SlopeCell } from './weak-modes.js';

/** A box is cut into at most so many cells each way, to tell where its slopes lie. */
const mostCells = 16;
/** So far at the box's corner, in pixels, a motion is tried out. */
const triedOut = 1.5;
/** When it turns out that a motion is so much less or more damped, a registration goes on from where it ended. */
const much = 0.2;
/** Grain that shows in what is left over when it is so many times what it was thought to be. */
const rougher = 1.5;
/** For so many pictures a codec may have copied a template's grain. */
const copiedFor = 12;
/** With less of the box believed than this share, nothing is learnt of what it tells. */
const inTheOpen = 0.85;

/**
 * Finds what a template's texture does not tell, and damps it. Left to itself a registration would walk at random there,
 * as grain and what sampling makes of slopes have it, and take the middle of the box along.
 */
export function findWeakModes(kernels: TrackKernels, template: Template): void {
  const { full, model, reach, aspect } = template;
  // A mere shift has nothing to tell but where it is.
  if (model !== 'translation') {
    const cells = slopeCells(kernels, full);
    template.centroidOffset = centroidOffsetOf(cells);
    template.weakModes = weakModesOf(
      model,
      normalOf(kernels, template),
      cells,
      grainOf(template),
      reach,
      aspect,
    );
  }
  damp(kernels, template);
}

/** How far from the middle of the box the middle of its slopes is, pixels. */
function centroidOffsetOf(cells: readonly SlopeCell[]): number {
  let [x, y, all] = [0, 0, 0];
  for (const { u, v, energy } of cells) {
    x += energy * u;
    y += energy * v;
    all += energy;
  }
  return all > 0 ? Math.hypot(x, y) / all : 0;
}

/** What grain puts into the squared slopes of each pixel and direction, by all that has shown of it. */
const grainOf = ({ gradientNoise, measuredGradientNoise }: Template): number =>
  Math.max(gradientNoise, measuredGradientNoise);

/** Tells the kernels, for each grid, how its normal matrix is damped, by what is known of the template. */
export function damp(kernels: TrackKernels, template: Template): void {
  const { full, subsample, gradientRuns, model, reach, weakModes } = template;
  template.weakModeDrift = driftOf(weakModes, reach);
  const matrix = dampingMatrixOf(weakModes, rowsFor(model));
  for (const pixelSet of new Set([full, subsample, gradientRuns])) {
    // What holds as much as all pixels do is as stiff as they are.
    const each = pixelSet.energy / full.energy / pixelSet.pixels || 0;
    kernels.putDoubles(pixelSet.damping, matrix, each);
  }
}

/**
 * Learns from where all of a template's pixels fit what its texture tells: grain is another in every picture. Returns
 * whether it is damped otherwise now.
 */
export function updateWeakModes(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  result: RegistrationResult,
): boolean {
  const { full, model, reach, aspect, age } = template;
  if (model === 'translation' || result.gathered < inTheOpen * full.width * full.height) return false;
  const looks = age < copiedFor ? 1 : 2;
  if (template.noiseEstimates < looks) {
    template.noiseEstimates = looks;
    const seen = measureGradientNoise(kernels, full, result);
    if (seen > rougher * grainOf(template)) {
      template.measuredGradientNoise = seen;
      findWeakModes(kernels, template);
    }
  }
  const { weakModes } = template;
  if (weakModes.length === 0) return false;
  const before = weakModes.map(dampingWeight);
  for (const way of weakModes) {
    const size = triedOut / Math.hypot(...way.motion.subarray(2));
    const moved = increment(
      model,
      way.motion.map((amount) => size * amount),
      reach,
      aspect,
    );
    const poses = [moved, invert(moved)].map((m) => multiply(result.pose, m));
    const deep = costCurvature(kernels, full, area, result, poses) - codecNoiseFloor(full, result, poses);
    learn(way, deep / (2 * size * size), age < copiedFor);
  }
  damp(kernels, template);
  return weakModes.some((way, i) => Math.abs(dampingWeight(way) - before[i]) > much);
}

/**
 * What grain puts into the squared slopes of each pixel and direction: half of what is left over is the template's. Pixels
 * count as far as they are believed.
 */
function measureGradientNoise(
  kernels: TrackKernels,
  { width, height, count, level }: PixelSet,
  { seen, weight, gain }: RegistrationResult,
): number {
  const [levels, there, believed] = [level, seen, weight].map((at) => kernels.floats(at, count));
  const columns = count / height;
  let sum = 0;
  let total = 0;
  for (let y = 1; y < height - 1; y++)
    for (let p = y * columns + 1, end = p + width - 2; p < end; p++) {
      const across = (there[p + 1] - there[p - 1]) / gain - (levels[p + 1] - levels[p - 1]);
      const down =
        (there[p + columns] - there[p - columns]) / gain - (levels[p + columns] - levels[p - columns]);
      const slopes = across * across + down * down;
      if (slopes !== slopes) continue;
      sum += (believed[p] * slopes) / 8;
      total += believed[p];
    }
  return total > 0 ? sum / (2 * total) : 0;
}

/** The normal matrix, n×n, that all pixels of a template have where it lies. */
function normalOf(kernels: TrackKernels, { full, model }: Template): number[] {
  const n = rowsFor(model);
  const { descent, level, count } = full;
  const weight = kernels.scratch('weight of itself', 4 * count);
  const scratch = kernels.scratch('scratch', 4 * 1024);
  const sums = kernels.scratch('sums', 8 * 80);
  // Seen just as it is, every pixel counts once.
  kernels.gather(descent, n, count, level, level, 1, 0, 1, 1, 1, 0, weight, scratch, sums);
  const normal = new Array<number>(n * n).fill(0);
  const told = kernels.takeDoubles(sums + 8 * (n + 2), (n * (n + 1)) / 2);
  for (let i = 0, from = 0; i < n; i++)
    for (let j = i; j < n; j++, from++) normal[i * n + j] = normal[j * n + i] = told[from];
  return normal;
}

/** Where in its box a template's slopes lie. */
function slopeCells(kernels: TrackKernels, full: PixelSet): SlopeCell[] {
  const { width, height, count, level } = full;
  const [alongX, alongY] = gradientsOf(kernels, full);
  const levels = kernels.floats(level, count);
  const columns = count / height;
  const [across, down] = [Math.min(width, mostCells), Math.min(height, mostCells)];
  const edge = (i: number, cells: number, size: number): number => Math.round((i * size) / cells);
  const cells: SlopeCell[] = [];
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) {
      const [left, right] = [edge(i, across, width), edge(i + 1, across, width)];
      const [top, bottom] = [edge(j, down, height), edge(j + 1, down, height)];
      const cell = { u: (left + right - width) / 2, v: (top + bottom - height) / 2, energy: 0, pixels: 0 };
      for (let y = top; y < bottom; y++)
        for (let p = y * columns + left, end = p + right - left; p < end; p++) {
          if (Number.isNaN(levels[p])) continue;
          cell.energy += alongX[p] ** 2 + alongY[p] ** 2;
          cell.pixels++;
        }
      cells.push(cell);
    }
  return cells;
}
