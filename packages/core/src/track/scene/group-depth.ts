import { apply, invert, matrixAt, multiply } from '../../geometry/mat3.js';
import type { DepthPath, MotionGroup, PictureExtent } from './motion-group.js';

/** A group is of the same still scene where its slide is a share of the path of another, but for so much of it, or of pixels. */
const straying = 0.04;
const strayingPixels = 0.8;
/** Slides shorter than this, RMS pixels, are no depth. */
const leastSlide = 1;

/**
 * How each group slides against the first, and, where several slide alike, each its share (the camera travels, and they lie at
 * different depths: plane and parallax), how deep each lies. Returns what a depth of 1 slides; null where there is no depth.
 */
export function sortByDepth(groups: MotionGroup[], frames: number, size: PictureExtent): DepthPath | null {
  if (groups.length < 2) return null;
  const [main] = groups;
  const paths = groups.map((group) => slideOf(main, group, frames));
  groups.slice(1).forEach((group, g) => (group.slide = spanOf(paths[g + 1], group, main)));
  let best: { g: number; along: number[]; support: number } | null = null;
  for (let g = 1; g < groups.length; g++) {
    if (groups[g].slide < leastSlide) continue;
    const along = groups.map((group, other) => shareAlong(paths[other], paths[g], group, groups[g], main));
    // The one that more of the picture goes along with; where it is alone, it must lie beside the first all the while.
    const support = groups.reduce(
      (sum, { share }, other) => sum + (Number.isNaN(along[other]) ? 0 : share),
      0,
    );
    if (!best || support > best.support) best = { g, along, support };
  }
  if (!best) return null;
  const company = best.along.filter((share) => !Number.isNaN(share)).length;
  const whole = groups[best.g];
  const lasting = whole.last - whole.first > 0.8 * (main.last - main.first);
  if (company < 3 && !lasting) return null;
  const deepest = Math.max(...best.along.map((share) => (Number.isNaN(share) ? 0 : Math.abs(share))));
  // Near things lie lower in most pictures: they are given the positive depths.
  let lean = 0;
  groups.forEach(({ middle, share }, g) => {
    const along = best.along[g];
    if (!Number.isNaN(along)) lean += share * along * (middle.y - size.height / 2);
  });
  const sign = (lean < 0 ? -1 : 1) / deepest;
  groups.forEach((group, g) => {
    const along = best.along[g];
    group.depth = Number.isNaN(along) ? null : sign * along;
  });
  return paths[best.g].map((value) => value / sign);
}

/** How a group's middle goes, seen from the first group: x, y a frame. */
export function slideOf(main: MotionGroup, group: MotionGroup, frames: number): Float64Array {
  const path = new Float64Array(2 * frames);
  for (let k = 0; k < frames; k++) {
    const seen = multiply(
      invert(matrixAt(main.models.similarity.matrices, k)),
      matrixAt(group.models.similarity.matrices, k),
    );
    const { x, y } = apply(seen, group.middle.x, group.middle.y);
    path.set([x - group.middle.x, y - group.middle.y], 2 * k);
  }
  return path;
}

/** Frames on which some groups are all seen, as indices from the first group's first. */
function common(...groups: MotionGroup[]): [number, number] {
  const base = groups[groups.length - 1].first;
  return [
    Math.max(...groups.map(({ first }) => first)) - base,
    Math.min(...groups.map(({ last }) => last)) - base,
  ];
}

export function spanOf(path: Float64Array, group: MotionGroup, main: MotionGroup): number {
  const [first, last] = common(group, main);
  return Math.sqrt(squaresAbout(path, first, last) / Math.max(last - first + 1, 1));
}

/** Sum of squared distances from the mean place. */
function squaresAbout(path: Float64Array, first: number, last: number): number {
  const n = last - first + 1;
  let [x, y, squares] = [0, 0, 0];
  for (let k = first; k <= last; k++) {
    x += path[2 * k];
    y += path[2 * k + 1];
    squares += path[2 * k] ** 2 + path[2 * k + 1] ** 2;
  }
  return n > 0 ? Math.max(squares - (x * x + y * y) / n, 0) : 0;
}

/** Which share of another's slide a group makes; not a number where it goes its own way. */
function shareAlong(
  path: Float64Array,
  other: Float64Array,
  group: MotionGroup,
  against: MotionGroup,
  main: MotionGroup,
): number {
  if (group === main) return 0;
  const [first, last] = common(group, against, main);
  const n = last - first + 1;
  if (n < 12) return NaN;
  const mean = (of: Float64Array, c: number): number => {
    let sum = 0;
    for (let k = first; k <= last; k++) sum += of[2 * k + c];
    return sum / n;
  };
  const means = [0, 1].map((c) => [mean(path, c), mean(other, c)]);
  let [dot, norm] = [0, 0];
  for (let k = first; k <= last; k++)
    for (const c of [0, 1]) {
      const [p, q] = [path[2 * k + c] - means[c][0], other[2 * k + c] - means[c][1]];
      dot += p * q;
      norm += q * q;
    }
  const share = norm > 0 ? dot / norm : 0;
  let squares = 0;
  for (let k = first; k <= last; k++)
    for (const c of [0, 1])
      squares += (path[2 * k + c] - means[c][0] - share * (other[2 * k + c] - means[c][1])) ** 2;
  const off = Math.sqrt(squares / n);
  const length = Math.abs(share) * Math.sqrt(norm / n);
  return off <= Math.max(strayingPixels, straying * length) ? share : NaN;
}
