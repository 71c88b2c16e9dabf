import { invert, matrixAt } from '../geometry/mat3.js';
import type { RowMotion } from '../solve/row-motion.js';
import { maximise, type HalfSpace } from './linear-program.js';
import { nearestToOrigin } from './nearest-point.js';
import { rowOutlineOf } from './outline.js';
import { outputOf, windowOf, edges, type Edge, type Framing, type View } from './framing.js';

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
 * with it: the output rectangle lies inside every frame's outline. Exact, since this is a linear
 * program in 1/zoom and the shift, for perspective corrections too; where rows were read one after another it is so for straight
 * sides laid within the bent ones. Of all shifts that allow the zoom the smallest is
 * taken. Never zooms below 1.
 *
 * Returns null when even the largest zoom leaves a bare edge.
 */
export function fitFraming(
  corrections: Float64Array,
  first: number,
  last: number,
  size: View,
  rows: RowMotion | null = null,
): FramingFit | null {
  const cx = size.width / 2;
  const cy = size.height / 2;
  const [output, window] = [outputOf(size), windowOf(size)];
  const [halfWidth, halfHeight] = [window.width / 2, window.height / 2];
  // Unknowns: w = halfWidth/zoom, and the shift (dx, dy) of the steadied picture's point shown at the centre.
  const spaces: HalfSpace[] = [];
  const causes: { frame: number; edge: Edge }[] = [];
  for (let frame = first; frame <= last; frame++) {
    const back = invert(matrixAt(corrections, frame));
    for (const { edge, normal, offset } of rowOutlineOf(back, size, rows, frame)) {
      const [alongX, alongY] = normal;
      // Of the four corners the one that reaches furthest past this edge.
      const reach = Math.abs(alongX) + (Math.abs(alongY) * halfHeight) / halfWidth;
      spaces.push({ a: [reach, alongX, alongY], b: offset - alongX * cx - alongY * cy });
      causes.push({ frame, edge });
    }
  }
  const bound = 4 * Math.max(size.width, size.height);
  const best = maximise(
    [...spaces, { a: [1, 0, 0], b: halfWidth }, { a: [-1, 0, 0], b: -halfWidth / largestZoom }],
    [1, 0, 0],
    bound,
  );
  if (!best) return null;

  const zooms = best[0] < halfWidth - margin;
  const w = zooms ? best[0] - margin : halfWidth;
  const planes = spaces.map(({ a, b }) => ({ a: [a[1], a[2]], b: b - a[0] * w }));
  const shift = nearestToOrigin(planes, bound) ?? { x: best[1], y: best[2] };
  const zoom = halfWidth / w;
  const [sx, sy] = [(zoom * output.width) / window.width, (zoom * output.height) / window.height];
  const tight = spaces
    .map(({ a, b }, i) => ({ ...causes[i], slack: b - a[0] * best[0] - a[1] * shift.x - a[2] * shift.y }))
    .filter(({ slack }) => zooms && slack < 1e-3)
    .sort((p, q) => p.slack - q.slack);
  return {
    framing: { zoom, offsetX: -shift.x * sx || 0, offsetY: -shift.y * sy || 0 },
    forcedBy: edges
      .flatMap((edge) => tight.filter((t) => t.edge === edge).slice(0, 1))
      .map(({ frame, edge }) => ({ frame, edge })),
  };
}
