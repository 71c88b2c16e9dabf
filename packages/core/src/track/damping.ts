import { invert, multiply } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import { rowsFor, slopesOf, type Grid } from './grid.js';
import { hollow, mostLuckOf, type Landing } from './misfit.js';
import { increment } from './shape.js';
import type { Template } from './template.js';
import { dampingOf, lacking, learn, leverOf, untoldOf, type SlopeCell } from './untold.js';

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
export function findUntold(kernels: TrackKernels, template: Template): void {
  const { full, shape, reach, aspect } = template;
  // A mere shift has nothing to tell but where it is.
  if (shape !== 'shift') {
    const cells = slopeCells(kernels, full);
    template.aside = asideOf(cells);
    template.untold = untoldOf(shape, normalOf(kernels, template), cells, grainOf(template), reach, aspect);
  }
  damp(kernels, template);
}

/** How far from the middle of the box the middle of its slopes is, pixels. */
function asideOf(cells: readonly SlopeCell[]): number {
  let [x, y, all] = [0, 0, 0];
  for (const { u, v, energy } of cells) {
    x += energy * u;
    y += energy * v;
    all += energy;
  }
  return all > 0 ? Math.hypot(x, y) / all : 0;
}

/** What grain puts into the squared slopes of each pixel and direction, by all that has shown of it. */
const grainOf = ({ falseSlope, falseSlopeSeen }: Template): number => Math.max(falseSlope, falseSlopeSeen);

/** Tells the kernels, for each grid, how its normal matrix is damped, by what is known of the template. */
export function damp(kernels: TrackKernels, template: Template): void {
  const { full, lattice, runs, shape, reach, untold } = template;
  template.lever = leverOf(untold, reach);
  const matrix = dampingOf(untold, rowsFor(shape));
  for (const grid of new Set([full, lattice, runs])) {
    // What holds as much as all pixels do is as stiff as they are.
    const each = grid.energy / full.energy / grid.pixels || 0;
    kernels.putDoubles(grid.damping, matrix, each);
  }
}

/**
 * Learns from where all of a template's pixels fit what its texture tells: grain is another in every picture. Returns
 * whether it is damped otherwise now.
 */
export function learnUntold(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  landing: Landing,
): boolean {
  const { full, shape, reach, aspect, age } = template;
  if (shape === 'shift' || landing.gathered < inTheOpen * full.width * full.height) return false;
  const looks = age < copiedFor ? 1 : 2;
  if (template.grainLooks < looks) {
    template.grainLooks = looks;
    const seen = falseSlopeOf(kernels, full, landing);
    if (seen > rougher * grainOf(template)) {
      template.falseSlopeSeen = seen;
      findUntold(kernels, template);
    }
  }
  const { untold } = template;
  if (untold.length === 0) return false;
  const before = untold.map(lacking);
  for (const way of untold) {
    const size = triedOut / Math.hypot(...way.motion.subarray(2));
    const moved = increment(
      shape,
      way.motion.map((amount) => size * amount),
      reach,
      aspect,
    );
    const poses = [moved, invert(moved)].map((m) => multiply(landing.pose, m));
    const deep = hollow(kernels, full, area, landing, poses) - mostLuckOf(full, landing, poses);
    learn(way, deep / (2 * size * size), age < copiedFor);
  }
  damp(kernels, template);
  return untold.some((way, i) => Math.abs(lacking(way) - before[i]) > much);
}

/**
 * What grain puts into the squared slopes of each pixel and direction: half of what is left over is the template's. Pixels
 * count as far as they are believed.
 */
function falseSlopeOf(
  kernels: TrackKernels,
  { width, height, count, level }: Grid,
  { seen, weight, gain }: Landing,
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
function normalOf(kernels: TrackKernels, { full, shape }: Template): number[] {
  const n = rowsFor(shape);
  const { descent, level, count } = full;
  const weight = kernels.room('weight of itself', 4 * count);
  const scratch = kernels.room('scratch', 4 * 1024);
  const sums = kernels.room('sums', 8 * 80);
  // Seen just as it is, every pixel counts once.
  kernels.gather(descent, n, count, level, level, 1, 0, 1, 1, 1, 0, weight, scratch, sums);
  const normal = new Array<number>(n * n).fill(0);
  const told = kernels.takeDoubles(sums + 8 * (n + 2), (n * (n + 1)) / 2);
  for (let i = 0, from = 0; i < n; i++)
    for (let j = i; j < n; j++, from++) normal[i * n + j] = normal[j * n + i] = told[from];
  return normal;
}

/** Where in its box a template's slopes lie. */
function slopeCells(kernels: TrackKernels, full: Grid): SlopeCell[] {
  const { width, height, count, level } = full;
  const [alongX, alongY] = slopesOf(kernels, full);
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
