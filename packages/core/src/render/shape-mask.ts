import type { MaskRecipe } from '../dress/operation.js';
import type { Point } from '../geometry/mat3.js';
import type { PixelBox } from './warp-picture.js';

/** How much of each pixel of a box is seen, 0 to 1, row by row. */
export interface Mask {
  box: PixelBox;
  alpha: Float32Array;
}

const sizeOf = ({ left, top, right, bottom }: PixelBox) => ({ width: right - left, height: bottom - top });

/**
 * The exact area that a polygon covers of each pixel of a box, by signed areas that are accumulated along the rows (as font
 * rasterisers do): what it winds round at all is inside.
 */
export function coverageOf(points: readonly Point[], box: PixelBox): Float32Array {
  const { width, height } = sizeOf(box);
  // A column more takes what lies right of the box.
  const stride = width + 2;
  const sums = new Float32Array(stride * height);
  for (let i = 0, j = points.length - 1; i < points.length; j = i++)
    accumulate(sums, stride, width, height, points[j], points[i], box);
  const covered = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    let sum = 0;
    for (let x = 0; x < width; x++) {
      sum += sums[y * stride + x];
      covered[y * width + x] = Math.min(1, Math.abs(sum));
    }
  }
  return covered;
}

/** Adds what an edge covers to its right. */
function accumulate(
  sums: Float32Array,
  stride: number,
  width: number,
  height: number,
  from: Point,
  to: Point,
  { left, top }: PixelBox,
): void {
  if (from.y === to.y) return;
  const sign = from.y < to.y ? 1 : -1;
  const [a, b] = sign > 0 ? [from, to] : [to, from];
  const slope = (b.x - a.x) / (b.y - a.y);
  const [first, last] = [Math.max(0, a.y - top), Math.min(height, b.y - top)];
  if (first >= last) return;
  let x = a.x - left + slope * (first + top - a.y);
  for (let row = Math.floor(first); row < last; row++) {
    const dy = Math.min(row + 1, last) - Math.max(row, first);
    const next = x + slope * dy;
    const d = sign * dy;
    const [x0, x1] = (x < next ? [x, next] : [next, x]).map((v) => Math.min(Math.max(v, 0), width));
    const at = row * stride;
    const [i0, i1] = [Math.floor(x0), Math.ceil(x1)];
    if (i1 <= i0 + 1) {
      // Within one pixel: a trapezium.
      const middle = (x0 + x1) / 2 - i0;
      sums[at + i0] += d * (1 - middle);
      sums[at + i0 + 1] += d * middle;
    } else {
      const s = 1 / (x1 - x0);
      const a0 = 0.5 * s * (i0 + 1 - x0) ** 2;
      const am = 0.5 * s * (x1 - i1 + 1) ** 2;
      sums[at + i0] += d * a0;
      if (i1 === i0 + 2) sums[at + i0 + 1] += d * (1 - a0 - am);
      else {
        const a1 = s * (i0 + 1.5 - x0);
        sums[at + i0 + 1] += d * (a1 - a0);
        for (let i = i0 + 2; i < i1 - 1; i++) sums[at + i] += d * s;
        const a2 = a1 + (i1 - i0 - 3) * s;
        sums[at + i1 - 1] += d * (1 - a2 - am);
      }
      sums[at + i1] += d * am;
    }
    x = next;
  }
}

/** The square of how far each pixel's middle is from a polygon's edge, up to a reach. */
function squaresFrom(points: readonly Point[], box: PixelBox, reach: number): Float32Array {
  const { width, height } = sizeOf(box);
  const squares = new Float32Array(width * height).fill(reach * reach);
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [a, b] = [points[j], points[i]];
    // A long edge has its band in pieces: the box about a slanted one is mostly empty.
    const pieces = Math.max(1, Math.ceil(Math.hypot(b.x - a.x, b.y - a.y) / (2 * reach + 16)));
    for (let n = 0; n < pieces; n++) {
      const [s, t] = [n / pieces, (n + 1) / pieces];
      const p = { x: a.x + s * (b.x - a.x), y: a.y + s * (b.y - a.y) };
      const q = { x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y) };
      nearer(squares, width, height, p, q, box, reach);
    }
  }
  return squares;
}

function nearer(
  squares: Float32Array,
  width: number,
  height: number,
  a: Point,
  b: Point,
  { left, top }: PixelBox,
  reach: number,
): void {
  const x0 = Math.max(0, Math.floor(Math.min(a.x, b.x) - reach - left));
  const x1 = Math.min(width, Math.ceil(Math.max(a.x, b.x) + reach - left));
  const y0 = Math.max(0, Math.floor(Math.min(a.y, b.y) - reach - top));
  const y1 = Math.min(height, Math.ceil(Math.max(a.y, b.y) + reach - top));
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const length = dx * dx + dy * dy;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const [px, py] = [x + left + 0.5 - a.x, y + top + 0.5 - a.y];
      const t = length > 0 ? Math.min(Math.max((px * dx + py * dy) / length, 0), 1) : 0;
      const square = (px - t * dx) ** 2 + (py - t * dy) ** 2;
      const at = y * width + x;
      if (square < squares[at]) squares[at] = square;
    }
}

/** The part of a picture that a mask may be anything but nothing in; null where that is no part of it. */
export function maskBox(
  { outlines, featherOut, choke, invert }: MaskRecipe,
  size: { width: number; height: number },
): PixelBox | null {
  const all = { left: 0, top: 0, right: size.width, bottom: size.height };
  const added = outlines.filter(({ cut }) => !cut).flatMap(({ points }) => points);
  if (invert || outlines.length === 0) return all;
  if (added.length === 0) return null;
  const reach = Math.max(0, featherOut - choke) + 2;
  const [xs, ys] = [added.map((p) => p.x), added.map((p) => p.y)];
  // Even, so that chroma goes along.
  const even = (v: number, up: boolean): number => 2 * (up ? Math.ceil(v / 2) : Math.floor(v / 2));
  const box = {
    left: Math.max(0, even(Math.min(...xs) - reach, false)),
    top: Math.max(0, even(Math.min(...ys) - reach, false)),
    right: Math.min(size.width, even(Math.max(...xs) + reach, true)),
    bottom: Math.min(size.height, even(Math.max(...ys) + reach, true)),
  };
  return box.left < box.right && box.top < box.bottom ? box : null;
}

/** What is seen of each pixel of a box: outlines are added and cut out in order, each faded by how far off its edge is. */
export function maskIn(recipe: MaskRecipe, box: PixelBox): Mask {
  const { width, height } = sizeOf(box);
  const { outlines, invert } = recipe;
  let alpha: Float32Array = new Float32Array(width * height).fill(outlines.length === 0 ? 1 : 0);
  for (const { points, cut } of outlines) {
    const one = faded(points, recipe, box);
    if (!cut && outlines.length === 1) alpha = one;
    else
      for (let i = 0; i < alpha.length; i++)
        alpha[i] = cut ? alpha[i] * (1 - one[i]) : alpha[i] + (1 - alpha[i]) * one[i];
  }
  if (invert) for (let i = 0; i < alpha.length; i++) alpha[i] = 1 - alpha[i];
  return { box, alpha };
}

function faded(
  points: readonly Point[],
  { featherIn, featherOut, choke }: MaskRecipe,
  box: PixelBox,
): Float32Array {
  const covered = coverageOf(points, box);
  if (featherIn === 0 && featherOut === 0 && choke === 0) return covered;
  // A ramp of no width is one pixel wide all the same: edges stay smooth.
  const [within, beyond] = [Math.max(featherIn, 0.5), Math.max(featherOut, 0.5)];
  const reach = Math.max(within, beyond) + Math.abs(choke) + 1;
  const squares = squaresFrom(points, box, reach);
  const far = reach * reach;
  for (let i = 0; i < covered.length; i++) {
    const isIn = covered[i] >= 0.5;
    if (squares[i] >= far) {
      covered[i] = isIn ? 1 : 0;
      continue;
    }
    const distance = Math.sqrt(squares[i]);
    const t = ((isIn ? distance : -distance) - choke + beyond) / (within + beyond);
    covered[i] = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
  }
  return covered;
}
