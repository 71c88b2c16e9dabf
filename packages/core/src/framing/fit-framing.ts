import { apply, invert, isAffine, matrixAt, type Mat3 } from '../geometry/mat3.js';
import { maximise, type HalfSpace } from './linear-program.js';
import { nearestToOrigin } from './nearest-point.js';
import { edges, type Edge, type Framing, type PictureSize } from './framing.js';

export interface FramingFit {
  framing: Framing;
  /** The frames and edges that allow no smaller zoom; at most one for each edge. Empty when zoom is 1. */
  forcedBy: { frame: number; edge: Edge }[];
}

/** More zoom than this is no picture any more. */
export const largestZoom = 20;

/** Half-extent given away so that rounding never shows a bare edge, in source pixels. */
const margin = 1e-5;

/**
 * The smallest zoom that leaves no bare edge in any frame from `first` to `last`, with the shift that goes
 * with it: the output rectangle's corners carried back lie inside every frame. Exact, since this is a linear
 * program in 1/zoom and the shift, for perspective corrections too: multiplied by the (positive) denominator,
 * what asks a corner to lie inside is linear in the corner. Of all shifts that allow the zoom the smallest is
 * taken. Never zooms below 1.
 *
 * Returns null when even the largest zoom leaves a bare edge.
 */
export function fitFraming(
  corrections: Float64Array,
  first: number,
  last: number,
  size: PictureSize,
): FramingFit | null {
  const cx = size.width / 2;
  const cy = size.height / 2;
  // Unknowns: w = cx/zoom, and the shift (dx, dy) of the steadied picture's point shown at the centre.
  const spaces: HalfSpace[] = [];
  const causes: { frame: number; edge: Edge }[] = [];
  for (let frame = first; frame <= last; frame++) {
    const back = invert(matrixAt(corrections, frame));
    if (!isAffine(back)) {
      for (const { edge, space } of perspectiveSpaces(back, size)) {
        spaces.push(space);
        causes.push({ frame, edge });
      }
      continue;
    }
    const centre = apply(back, cx, cy);
    const rooms = [centre.x, centre.y, size.width - centre.x, size.height - centre.y];
    edges.forEach((edge, e) => {
      const outward = e < 2 ? -1 : 1;
      const row = e % 2 === 0 ? 0 : 3;
      const alongX = outward * back[row];
      const alongY = outward * back[row + 1];
      // Of the four corners the one that reaches furthest past this edge.
      const reach = Math.abs(alongX) + (Math.abs(alongY) * cy) / cx;
      spaces.push({ a: [reach, alongX, alongY], b: rooms[e] });
      causes.push({ frame, edge });
    });
  }
  const bound = 4 * Math.max(size.width, size.height);
  const best = maximise(
    [...spaces, { a: [1, 0, 0], b: cx }, { a: [-1, 0, 0], b: -cx / largestZoom }],
    [1, 0, 0],
    bound,
  );
  if (!best) return null;

  const zooms = best[0] < cx - margin;
  const w = zooms ? best[0] - margin : cx;
  const planes = spaces.map(({ a, b }) => ({ a: [a[1], a[2]], b: b - a[0] * w }));
  const shift = nearestToOrigin(planes, bound) ?? { x: best[1], y: best[2] };
  const zoom = cx / w;
  const tight = spaces
    .map(({ a, b }, i) => ({ ...causes[i], slack: b - a[0] * best[0] - a[1] * shift.x - a[2] * shift.y }))
    .filter(({ slack }) => zooms && slack < 1e-3)
    .sort((p, q) => p.slack - q.slack);
  return {
    framing: { zoom, offsetX: -shift.x * zoom || 0, offsetY: -shift.y * zoom || 0 },
    forcedBy: edges
      .flatMap((edge) => tight.filter((t) => t.edge === edge).slice(0, 1))
      .map(({ frame, edge }) => ({ frame, edge })),
  };
}

/**
 * What the corners of the output rectangle, carried back by `back`, ask for to lie inside the frame: half-spaces of
 * (half of the width, shift along x, along y), in units of source pixels at the picture's middle.
 */
function* perspectiveSpaces(
  back: Mat3,
  { width, height }: PictureSize,
): Generator<{ edge: Edge; space: HalfSpace }> {
  const [cx, cy] = [width / 2, height / 2];
  const unit = Math.max(Math.abs(back[6] * cx + back[7] * cy + back[8]), 1e-9);
  const row = (r: number): number[] => [back[3 * r], back[3 * r + 1], back[3 * r + 2]];
  const [u, v, w] = [row(0), row(1), row(2)];
  const less = (a: number[], b: number[], times: number): number[] =>
    a.map((value, i) => value - times * b[i]);
  // Each is at most 0 where the corner (x, y, 1) is inside; together they keep the denominator from being negative.
  const outside: Record<Edge, number[]> = {
    left: u.map((value) => -value),
    top: v.map((value) => -value),
    right: less(u, w, width),
    bottom: less(v, w, height),
  };
  for (const edge of edges) {
    const [a, b, c] = outside[edge].map((value) => value / unit);
    for (const sx of [-1, 1])
      for (const sy of [-1, 1])
        yield {
          edge,
          space: { a: [sx * a + (sy * b * cy) / cx, a, b], b: -(a * cx + b * cy + c) },
        };
  }
}
