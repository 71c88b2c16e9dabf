import type { Mat3 } from '../../geometry/mat3.js';
import type { PointPair } from '../../geometry/similarity.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { MappedPlane } from '../image/patch.js';
import { cornersIn } from '../image/corners.js';
import { robustSimilarity, dominantMotion, sorted } from './dominant-motion.js';
import { buildPyramid, correlate, inLightOf, noise, textureIn, type Pyramid } from '../image/pyramid.js';

/** What happened to the picture as a whole from one frame to the next one looked at. */
export interface SceneChange {
  /** From the one to the other, in their pixels: a similarity; null where nothing can be said. */
  motion: Mat3 | null;
  /** How another great part of it moved, where it is not plain to see which is the picture. */
  other?: Mat3;
  /** True when the two frames belong to different shots. */
  cut: boolean;
}

/** It is looked at in so many places. */
const columns = 12;
const rows = 8;
const flowWindow = 15;
/** Narrower: what is carried is a point, not the picture. */
const carryWindow = 11;
/**
 * A window that differs by more than this, in grey levels, did not find its place; nor one that differs by more
 * than this share of its own contrast, give or take noise.
 */
const largestDifference = 14;
const largestShare = 0.4;
/** Across a cut fewer windows than this find a place, and the coarse pictures correlate less. */
const fewest = 0.25;
const leastCorrelation = 0.6;
/** Fewer windows than this say nothing of the picture's movement. */
const enough = 0.3;
/**
 * A window tells of movement where its slopes, along the direction that has least, are so many times what noise makes of them,
 * and at least so much, squared grey levels a pixel: on a plain wall flow follows the noise, and falls short. Where
 * fewer windows than this tell, all count; of those that tell this share must be followed.
 */
const telling = 10;
const leastSlope = 0.3;
const fewTelling = 5;
const enoughTelling = 0.3;
/** Where little else is followed, so many. */
const mostTelling = 0.6;
/** Where so many windows are followed they are seen all over the picture. */
const most = 0.6;
/** Windows that lie off their motion by so many pixels of the small copy, in the middle, agree with each other. */
const agreeing = 0.2;
/** What noise of variance 1 puts into the squared slope each way, and rounding's own variance. */
const slopeOfNoise = 1 / 2;
const rounding = 1 / 12;

/** A picture and its number in the clip. */
interface Seen {
  picture: MappedPlane;
  frame: number;
}

/**
 * Tells how the whole picture moved between two frames, and whether there is a cut between them: sparse flow
 * over a grid of windows on a small copy. The small copies of the last two pictures are kept.
 */
export class SceneMotion {
  private kept: (Seen & { pyramid: Pyramid })[] = [];
  /** What went with the picture up to a frame, where it was not plain to see. */
  private last: { frame: number; along: readonly PointPair[] } | null = null;

  constructor(private readonly kernels: TrackKernels) {}

  /** Lets the pictures go: what comes next is of another clip, or of another pass. */
  forget(): void {
    for (const { pyramid } of this.kept) this.kernels.free(pyramid.table, pyramid.bytes);
    this.kept = [];
    this.last = null;
  }

  compare(before: Seen, after: Seen): SceneChange {
    const [from, to] = this.pyramidsOf(before, after);
    const last = this.last?.frame === before.frame ? this.last.along : [];
    const { along, ...change } = this.measure(from, to, after.picture.width, last);
    this.last = along ? { frame: after.frame, along } : null;
    return change;
  }

  /**
   * How each point (x, y; x, y; …) is carried from one picture to the other, to a fraction of a pixel, as far as
   * the small copies tell; not a number where they do not.
   */
  carry(before: Seen, after: Seen, points: ArrayLike<number>): Float64Array {
    const [from, to] = this.pyramidsOf(before, after);
    const scale = after.picture.width / from.planes[0].width;
    const small = new Float64Array(points.length);
    for (let i = 0; i < small.length; i++) small[i] = points[i] / scale;
    const { found, followed } = this.flow(from, to, small, carryWindow);
    for (let i = 0; i < small.length; i++) found[i] = followed[i >> 1] ? scale * (found[i] - small[i]) : NaN;
    return found;
  }

  private pyramidsOf(before: Seen, after: Seen): [Pyramid, Pyramid] {
    const { kernels } = this;
    const wanted = [before, after].map(({ picture, frame }) => {
      const known = this.kept.find((k) => k.frame === frame && k.picture.width === picture.width);
      return known ?? { picture, frame, pyramid: buildPyramid(kernels, picture) };
    });
    for (const old of this.kept)
      if (!wanted.includes(old)) kernels.free(old.pyramid.table, old.pyramid.bytes);
    this.kept = wanted;
    return [wanted[0].pyramid, wanted[1].pyramid];
  }

  private measure(
    before: Pyramid,
    after: Pyramid,
    fullWidth: number,
    last: readonly PointPair[],
  ): SceneChange & { along?: readonly PointPair[] } {
    const [{ width, height }] = before.planes;
    const scale = fullWidth / width;
    const pivot = { x: fullWidth / 2, y: (scale * height) / 2 };
    const grid = this.follow(before, after, gridOf(width, height), scale);
    const pairs = grid.flatMap(({ pair }) => pair ?? []);
    const followed = pairs.length / grid.length;
    const cut = followed < fewest && correlate(this.kernels, before, after) < leastCorrelation;
    if (cut) return { motion: null, cut };
    const rough = followed < enough ? null : robustSimilarity(pairs, pivot);
    if (rough && followed >= most && rough.off <= agreeing * scale) return { motion: rough.motion, cut };
    // Where few windows are followed, or they do not agree, most of them may lie on a plain wall: corners are looked for.
    const all = [...grid, ...this.follow(before, after, this.corners(before), scale)];
    const least = leastTelling(all);
    const plain = all.flatMap(({ pair, slope }) => (pair && slope <= least ? pair : []));
    const telling = all.filter(({ slope }) => slope > least);
    if (telling.length < fewTelling) return { motion: rough?.motion ?? null, cut };
    const found = telling.flatMap(({ pair }) => pair ?? []);
    const isLost = found.length < (rough ? enoughTelling : mostTelling) * telling.length;
    return isLost ? { motion: null, cut } : { ...dominantMotion(found, plain, pivot, last), cut };
  }

  /** Where windows about places in the small copy go. */
  private follow(before: Pyramid, after: Pyramid, places: Float64Array, scale: number): Window[] {
    const { found, followed, differences, texture } = this.flow(before, after, places, windowIn(before));
    return followed.map((is, i) => {
      const [x, y] = [places[2 * i], places[2 * i + 1]];
      const to = { x: scale * found[2 * i], y: scale * found[2 * i + 1] };
      const pair = is ? { from: { x: scale * x, y: scale * y }, to, weight: 1 } : null;
      return { pair, slope: texture[2 * i], difference: differences[i] };
    });
  }

  /** The best corner of each cell of the small copy that has one: x, y; x, y; … */
  private corners({ planes }: Pyramid): Float64Array {
    const { at, width, height } = planes[Math.min(1, planes.length - 1)];
    const scale = planes[0].width / width;
    const cell = Math.max(4 * Math.round(width / columns / 4), 4);
    const found = cornersIn(this.kernels, at, width, height, cell).filter(({ score }) => score > leastSlope);
    return Float64Array.from(found.flatMap(({ x, y }) => [x, y].map((p) => Math.floor(scale * p) + 0.5)));
  }

  /** Follows places in the small copies, each for itself; `followed` says which of them held on to something. */
  private flow(earlier: Pyramid, after: Pyramid, places: Float64Array, window: number) {
    const { kernels } = this;
    const before = inLightOf(kernels, earlier, after);
    const count = places.length / 2;
    const points = kernels.scratch('flow points', 16 * count);
    const found = kernels.scratch('flow found', 16 * count);
    const residual = kernels.scratch('flow residual', 4 * count);
    kernels.putDoubles(points, places);
    kernels.putDoubles(found, places);
    const used = Math.min(before.planes.length, after.planes.length);
    kernels.flow(before.table, after.table, used, points, found, count, window, 8, 0.03, residual);
    const differences = kernels.floats(residual, count).slice();
    const texture = textureIn(kernels, before, places, window).slice();
    const followed: boolean[] = [];
    for (let i = 0; i < count; i++) {
      const difference = differences[i];
      const surely = difference >= 0 && difference <= noise;
      const maybe = difference > noise && difference <= largestDifference;
      followed.push(surely || (maybe && difference <= noise + largestShare * texture[2 * i + 1]));
    }
    return { found: kernels.doublesAt(found, 2 * count).slice(), followed, differences, texture };
  }
}

/** A window of the small copy: its way, if it was found, how it slopes, and how it differs there. */
interface Window {
  pair: PointPair | null;
  slope: number;
  difference: number;
}

/** How wide windows are: less in small pictures. */
const windowIn = ({ planes: [{ width, height }] }: Pyramid): number =>
  Math.min(flowWindow, (Math.min(width, height) >> 2) | 1);

/** The middles of the cells of a small copy: x, y; x, y; … */
function gridOf(width: number, height: number): Float64Array {
  const grid = new Float64Array(2 * columns * rows);
  for (let j = 0, i = 0; j < rows; j++)
    for (let k = 0; k < columns; k++) {
      grid[i++] = Math.floor(((k + 0.5) * width) / columns) + 0.5;
      grid[i++] = Math.floor(((j + 0.5) * height) / rows) + 0.5;
    }
  return grid;
}

/** The least slope of a window that tells of movement, by the noise that is between the windows that were followed. */
function leastTelling(windows: readonly Window[]): number {
  const noises = sorted(windows.flatMap(({ pair, difference }) => (pair ? difference : [])));
  // The calmest quarter has nothing but noise in it.
  const smoothedDerivative = noises[noises.length >> 2] ?? 0;
  // The mean size of a difference of two pictures' normal noise is 2/√π of its deviation.
  const variance = (Math.PI / 4) * smoothedDerivative ** 2 + rounding;
  return Math.max(telling * slopeOfNoise * variance, leastSlope);
}
