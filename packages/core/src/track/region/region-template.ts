import type { Point } from '../../geometry/mat3.js';
import { parameterCount, steepestDescent, type WarpModel } from '../../geometry/warp-model.js';
import * as layout from '../../kernels/layout.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { noiseVariance } from '../template/noise.js';
import { boxAbout } from './region.js';
import type { PictureLevel } from './picture-levels.js';

/** The region is cut into so many blocks each way: what passes in front covers whole ones. */
export const blocksAcross = 10;
/** So much of its pixels are looked at, within bounds, on its finest level and on the others. */
const share = 0.08;
const [fewest, most] = [2400, 9600];
const mostCoarse = 3600;
/** The share of the pixels that all blocks have alike. */
const fairShare = 0.5;

type Box = ReturnType<typeof boxAbout>;
/** Grain of variance 1 puts so much into the squared slopes of both directions; texture is told on this level, by so many times as much. */
const slopesOfGrain = 0.46;
const [texturedOn, aboveGrain] = [2, 8];
/** Resampling sharp edges leaves this share of their contrast. */
const resampled = 0.08;
/** A level has so many pixels at least; a coarser one tells nothing. */
const leastPixels = 160;
const mostLevels = 5;

/** A region's look on one level of a key's picture. */
export interface TemplateLevel {
  scale: number;
  /** The pixel that runs are counted from lies here, clip pixels of the key. */
  centre: Point;
  /** Pixels in runs of eight. */
  count: number;
  runs: number;
  level: number;
  descent: number;
  mean: number;
  /** Which block each run lies in. */
  blockOf: Uint8Array;
  /** Each run's first pixel from the centre: column, row; by turns. */
  begins: Int32Array;
  reach: number;
  /** Sum of squared slopes. */
  energy: number;
  /** What resampling alone may leave over, grey levels: the more the more contrast there is. */
  roundOff: number;
  start: number;
  bytes: number;
}

/** What a region looks like on a key: pixels inside its outlines, at several scales. */
export interface RegionTemplate {
  model: WarpModel;
  levels: TemplateLevel[];
  /** The length that parameters of motion are counted in, clip pixels. */
  reach: number;
  /** A pixel's width over its height. */
  aspect: number;
  /** Whether it shows more than grain. */
  isTextured: boolean;
}

/** How many levels a region of a size is worth. */
export function levelsFor(polygons: readonly (readonly Point[])[]): number {
  const { left, top, right, bottom } = boxAbout(polygons);
  const area = (right - left) * (bottom - top);
  let count = 1;
  while (count < mostLevels && area / 4 ** count >= leastPixels) count++;
  return count;
}

/**
 * Cuts a region out of a key's picture. `polygons` say where to look, `without` what does not count there; both in the key's
 * clip pixels. Null where nothing of it lies in the picture.
 */
export function cutRegion(
  kernels: TrackKernels,
  levels: readonly PictureLevel[],
  polygons: readonly (readonly Point[])[],
  without: readonly (readonly Point[])[],
  model: WarpModel,
  aspect: number,
): RegionTemplate | null {
  const box = boxAbout(polygons);
  const reach = Math.hypot(box.right - box.left, box.bottom - box.top) / 2;
  const cut: TemplateLevel[] = [];
  let grain = 0;
  for (const level of levels) {
    const mask = maskOn(level, polygons, without);
    if (level.scale === 1) grain = noiseVariance(kernels, level, 1, level.width - 2, level.height - 2, mask);
    const one = cutLevel(kernels, level, mask, box, model, reach, aspect);
    if (!one) break;
    cut.push(one);
  }
  if (cut.length === 0) return null;
  // Halving makes grain less, but not what is painted on a thing.
  const { scale, energy, count } = cut[Math.min(texturedOn, cut.length - 1)];
  const isTextured = energy / count > (aboveGrain * slopesOfGrain * grain) / scale ** 2;
  return { model, levels: cut, reach, aspect, isTextured };
}

export function freeRegion(kernels: TrackKernels, { levels }: RegionTemplate): void {
  for (const { start, bytes } of levels) kernels.free(start, bytes);
}

/** Which pixels of a level count. */
function maskOn(
  { width, height, scale, left, top, bounds }: PictureLevel,
  polygons: readonly (readonly Point[])[],
  without: readonly (readonly Point[])[],
): Uint8Array {
  const mask = new Uint8Array(width * height);
  const fill = (polygon: readonly Point[], value: 0 | 1): void => {
    for (let y = 0; y < height; y++) {
      const at = (top + y + 0.5) * scale;
      const crossings: number[] = [];
      for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
        const [a, b] = [polygon[i], polygon[j]];
        if (a.y > at !== b.y > at) crossings.push(((b.x - a.x) * (at - a.y)) / (b.y - a.y) + a.x);
      }
      crossings.sort((a, b) => a - b);
      for (let k = 0; k + 1 < crossings.length; k += 2) {
        const from = Math.max(Math.ceil(crossings[k] / scale - left - 0.5), 0);
        const to = Math.min(Math.ceil(crossings[k + 1] / scale - left - 0.5), width);
        if (to > from) mask.fill(value, y * width + from, y * width + to);
      }
    }
  };
  for (const polygon of polygons) fill(polygon, 1);
  for (const polygon of without) fill(polygon, 0);
  // Slopes need neighbours, and what hangs over the picture's edge is none of it.
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (x < bounds.left || y < bounds.top || x >= bounds.right - 1 || y >= bounds.bottom - 1)
        mask[y * width + x] = 0;
  return mask;
}

function cutLevel(
  kernels: TrackKernels,
  level: PictureLevel,
  mask: Uint8Array,
  box: Box,
  model: WarpModel,
  wholeReach: number,
  aspect: number,
): TemplateLevel | null {
  const { width, height, scale, stride } = level;
  const bytes = kernels.bytes(level.at, stride * (height - 1) + width);
  const slopes = slopesOf(bytes, stride, width, height);
  const found = chooseRuns(level, mask, slopes, box);
  const runCount = found.length / 2;
  if (runCount * layout.runLength < leastPixels / 2) return null;
  const count = runCount * layout.runLength;
  const reach = wholeReach / scale;
  const column = Math.round((box.left + box.right) / 2 / scale - level.left - 0.5);
  const row = Math.round((box.top + box.bottom) / 2 / scale - level.top - 0.5);
  const rows = layout.exposureRows + parameterCount[model];
  const size = 4 * count * (rows + 1) + 8 * runCount;
  const start = kernels.alloc(size);
  const [at, descent, runs] = [start, start + 4 * count, start + 4 * count * (rows + 1)];
  const levels = kernels.floats(at, count);
  const answers = kernels.floats(descent, count * rows);
  const seen = kernels.bytes(level.at, stride * (height - 1) + width);
  const begins = new Int32Array(2 * runCount);
  const blockOf = new Uint8Array(runCount);
  let mean = 0;
  for (let r = 0; r < runCount; r++)
    for (let i = 0; i < layout.runLength; i++) mean += seen[found[2 * r + 1] * stride + found[2 * r] + i];
  mean /= count;
  let energy = 0;
  let squares = 0;
  for (let r = 0; r < runCount; r++) {
    const [x, y] = [found[2 * r], found[2 * r + 1]];
    begins[2 * r] = x - column;
    begins[2 * r + 1] = y - row;
    blockOf[r] = blockAt(level, x + layout.runLength / 2, y + 0.5, box);
    for (let i = 0; i < layout.runLength; i++) {
      const n = r * layout.runLength + i;
      const k = y * width + x + i;
      const [gx, gy] = [slopes.x[k], slopes.y[k]];
      const value = seen[y * stride + x + i] - mean;
      levels[n] = value;
      squares += value * value;
      answers[n] = 1;
      answers[count + n] = value;
      const [u, v] = [begins[2 * r] + i, begins[2 * r + 1]];
      steepestDescent(model, gx, gy, u, v, reach, aspect, answers, layout.exposureRows * count + n, count);
      energy += gx * gx + gy * gy;
    }
  }
  kernels.putIntegers(runs, begins);
  const centre = {
    x: (level.left + column + 0.5) * scale,
    y: (level.top + row + 0.5) * scale,
  };
  return {
    scale,
    centre,
    count,
    runs,
    level: at,
    descent,
    mean,
    blockOf,
    begins,
    reach,
    energy,
    roundOff: Math.max(resampled * Math.sqrt(squares / count), layout.leastSpread),
    start,
    bytes: size,
  };
}

const blockAt = ({ left, top, scale }: PictureLevel, x: number, y: number, box: Box): number => {
  const across = Math.floor((blocksAcross * ((left + x) * scale - box.left)) / (box.right - box.left));
  const down = Math.floor((blocksAcross * ((top + y) * scale - box.top)) / (box.bottom - box.top));
  const within = (k: number): number => Math.min(Math.max(k, 0), blocksAcross - 1);
  return within(down) * blocksAcross + within(across);
};

/** Slopes by Scharr's operator (2000), grey levels a pixel; 0 at the borders. */
function slopesOf(bytes: Uint8Array, stride: number, width: number, height: number) {
  const x = new Float32Array(width * height);
  const y = new Float32Array(width * height);
  for (let row = 1; row < height - 1; row++) {
    const above = (row - 1) * stride;
    const here = row * stride;
    const below = (row + 1) * stride;
    for (let column = 1; column < width - 1; column++) {
      const k = row * width + column;
      const a = bytes[above + column - 1];
      const b = bytes[above + column];
      const c = bytes[above + column + 1];
      const d = bytes[here + column - 1];
      const f = bytes[here + column + 1];
      const g = bytes[below + column - 1];
      const h = bytes[below + column];
      const i = bytes[below + column + 1];
      x[k] = (10 * (f - d) + 3 * (c - a + i - g)) / 32;
      y[k] = (10 * (h - b) + 3 * (g - a + i - c)) / 32;
    }
  }
  return { x, y };
}

/** A run of eight pixels, its block, and what it tells of movement along x and along y. */
interface Run {
  x: number;
  y: number;
  block: number;
  along: readonly [number, number];
}

/**
 * Runs whose slopes tell most: a fair share from each block first, then wherever most is to be seen; half of them for what they
 * tell of either direction, as a run lies along a level edge as a whole, but crosses an upright one.
 */
function chooseRuns(
  level: PictureLevel,
  mask: Uint8Array,
  slopes: { x: Float32Array; y: Float32Array },
  box: Box,
): number[] {
  const { width, height, scale } = level;
  const runs: Run[] = [];
  let pixels = 0;
  for (const inside of mask) pixels += inside;
  for (let y = 0; y < height; y++)
    for (let x = 0; x + layout.runLength <= width;) {
      const at = y * width + x;
      let whole = true;
      for (let i = 0; i < layout.runLength && whole; i++) whole = mask[at + i] === 1;
      if (!whole) {
        x++;
        continue;
      }
      let [across, down] = [0, 0];
      for (let i = at; i < at + layout.runLength; i++) {
        across += slopes.x[i] ** 2;
        down += slopes.y[i] ** 2;
      }
      const block = blockAt(level, x + layout.runLength / 2, y + 0.5, box);
      runs.push({ x, y, block, along: [across, down] });
      x += layout.runLength;
    }
  const bounded = Math.min(Math.max(share * pixels, fewest), scale === 1 ? most : mostCoarse);
  const wanted = Math.min(Math.ceil(bounded / layout.runLength), runs.length);
  const chosen = new Set<Run>();
  const take = (from: readonly Run[], upTo: number, eachBlock: number): void => {
    const taken = new Uint32Array(blocksAcross ** 2);
    for (const run of from) {
      if (chosen.size >= upTo) return;
      if (++taken[run.block] <= eachBlock) chosen.add(run);
    }
  };
  const fair = Math.ceil((fairShare * wanted) / 2 / blocksAcross ** 2);
  const ways = [0, 1].map((way) => [...runs].sort((a, b) => b.along[way] - a.along[way]));
  for (const way of ways) take(way, wanted, fair);
  const half = chosen.size + (wanted - chosen.size) / 2;
  take(ways[0], half, Infinity);
  take(ways[1], wanted, Infinity);
  return [...chosen].sort((a, b) => a.y - b.y || a.x - b.x).flatMap(({ x, y }) => [x, y]);
}
