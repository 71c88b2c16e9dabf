import { apply, type Mat3, type Point } from '../../geometry/mat3.js';
import { fitSimilarity, similarityMatrix, type PointPair } from '../../geometry/similarity.js';

/** Windows this much farther from the main motion than most are left out; nearer than so many pixels none. */
const outlying = 2.5;
const nearEnough = 0.5;
const limitFor = (off: number): number => Math.max(outlying * off, nearEnough);
/** Another motion than that of most is one where so many windows go along, and so many of those that go with most. */
const fewest = 4;
const leastShare = 0.2;
/** Where so many windows tell nothing themselves, all of them together tell which of two motions is the picture's. */
const manyPlain = 8;
/** Where they are fewer, it is the motion of most, unless another is seen in so many times the square of its extent. */
const muchWider = 2;
/** Flow on a plain wall falls short of the movement, but not by more than this. */
const leastFollowed = 0.25;
/** The best so many of them count. */
const best = 0.8;
/** By so much better they must agree with a motion than with a likelier one. */
const clearly = 0.85;
/** And by so much with the motion of all windows: then they are not so plain. */
const surely = 0.5;
/** A window is where one was a picture before when it is nearer than one of so many parts of half the picture. */
const places = 12;

/** What is seen of a picture's motion. */
export interface DominantMotion {
  /** A similarity; null where nothing fits. */
  motion: Mat3 | null;
  /** The motion that was not taken, if there were two. */
  other?: Mat3;
  /** The windows that went with the picture, where there were two motions. */
  along?: readonly PointPair[];
}

/**
 * How a picture moves, by windows that tell, and those that do not: on a plain wall flow follows the noise, and falls short.
 * Mostly it is what most of those that tell say; but what crosses before a plain wall may be most of what tells. Then it is
 * rather what the wall does as far as it can be seen, and what lies all over the picture, or where it was seen in the `last`
 * one. `pivot` is the picture's middle.
 */
export function dominantMotion(
  telling: readonly PointPair[],
  plain: readonly PointPair[],
  pivot: Point,
  last: readonly PointPair[] = [],
): DominantMotion {
  const first = robustSimilarity(telling, pivot);
  if (!first) return { motion: null };
  const isTold = plain.length >= manyPlain;
  const others = telling.filter((pair) => distance(pair, first.motion) > limitFor(first.off));
  const second = others.length < fewest ? null : robustSimilarity(others, pivot);
  const all = isTold ? robustSimilarity([...telling, ...plain], pivot) : null;
  if (all && unlike(plain, all.motion) < surely * unlike(plain, first.motion))
    return { motion: all.motion, other: first.motion };
  if (!second || second.along.length < Math.max(fewest, leastShare * first.along.length))
    return { motion: first.motion };
  // The picture is where it was; at first it is what is seen all over, where what crosses is in one place.
  const [here, there] = [first, second].map(({ along }) => seenAgain(along, last, pivot.x / places));
  const known = Math.max(here, there) > 0;
  const isLikely = known
    ? there > here
    : extent(second.along) > (isTold ? 1 : muchWider) * extent(first.along);
  const [likely, less] = isLikely ? [second, first] : [first, second];
  const factor = known || !isLikely ? clearly : 1;
  const isLess = isTold && unlike(plain, less.motion) < factor * unlike(plain, likely.motion);
  const [taken, left] = isLess ? [less, likely] : [likely, less];
  return { motion: taken.motion, other: left.motion, along: taken.along };
}

/** Values by size: as doubles they are sorted without a call for each pair. */
export const sorted = (values: readonly number[]): Float64Array => new Float64Array(values).sort();

/** The middle one of some values; 0 of none. */
const middleOf = (values: readonly number[]): number => sorted(values)[values.length >> 1] ?? 0;

/** How far from where a motion takes a window it was found. */
function distance({ from, to }: PointPair, motion: Mat3): number {
  const { x, y } = apply(motion, from.x, from.y);
  return Math.hypot(x - to.x, y - to.y);
}

/** A motion, the windows that go along with it, and how far off all are in the middle. */
interface Motion {
  motion: Mat3;
  along: PointPair[];
  off: number;
}

/** The similarity that most windows follow: about their median first, then about itself. Null where nothing fits. */
export function robustSimilarity(pairs: readonly PointPair[], pivot: Point): Motion | null {
  if (pairs.length === 0) return null;
  const [x, y] = [
    middleOf(pairs.map(({ from, to }) => to.x - from.x)),
    middleOf(pairs.map(({ from, to }) => to.y - from.y)),
  ];
  let motion: Mat3 = [1, 0, x, 0, 1, y, 0, 0, 1];
  let off = 0;
  let along: PointPair[] = [];
  for (let round = 0; round < 3; round++) {
    const distances = pairs.map((pair) => distance(pair, motion));
    off = middleOf(distances);
    along = pairs.filter((_, i) => distances[i] <= limitFor(off));
    const fit = fitSimilarity(along, pivot);
    if (!fit) return null;
    motion = similarityMatrix(fit, pivot);
  }
  return { motion, along, off };
}

/** Which share of windows lies near some of those of the picture before. */
const seenAgain = (along: readonly PointPair[], last: readonly PointPair[], near: number): number =>
  along.filter(({ from }) => last.some(({ to }) => Math.hypot(to.x - from.x, to.y - from.y) < near)).length /
  along.length;

/** How far windows lie apart: the squared distance from their middle, in the mean. */
function extent(pairs: readonly PointPair[]): number {
  const mean = (of: (at: Point) => number): number =>
    pairs.reduce((sum, { from }) => sum + of(from), 0) / pairs.length;
  const [x, y] = [mean((at) => at.x), mean((at) => at.y)];
  return mean((at) => (at.x - x) ** 2 + (at.y - y) ** 2);
}

/** How far windows are from where a motion takes them, in the mean, as far as they go along with it at all. */
function unlike(plain: readonly PointPair[], motion: Mat3): number {
  const ways = plain.map(({ from, to }) => {
    const { x, y } = apply(motion, from.x, from.y);
    return { dx: x - from.x, dy: y - from.y, fx: to.x - from.x, fy: to.y - from.y };
  });
  const share = middleOf(ways.map(({ dx, dy, fx, fy }) => (fx * dx + fy * dy) / (dx * dx + dy * dy) || 0));
  const followed = Math.min(Math.max(share, leastFollowed), 1);
  const off = ways.map(({ dx, dy, fx, fy }) => Math.hypot(fx - followed * dx, fy - followed * dy));
  const counted = sorted(off).subarray(0, Math.ceil(best * off.length));
  return counted.reduce((sum, value) => sum + value, 0) / counted.length;
}
