import { apply, invert, type Mat3 } from '../geometry/mat3.js';
import { middlePlace, rowKnots, type RowMotion } from '../solve/row-motion.js';
import { edges, type Edge, type PictureSize } from './framing.js';

/** What lying inside the frame asks of a point p, past one of its edges: normal·p ≤ offset. */
export interface OutlineEdge {
  edge: Edge;
  normal: readonly [number, number];
  offset: number;
}

/**
 * The four sides of a frame in a space, as half-planes; what is left to each is in source pixels at the frame's middle.
 * Multiplied by the (positive) denominator, what asks a point to lie inside is linear in it for perspective as well.
 */
export function outlineOf(frameFromSpace: Mat3, { width, height }: PictureSize): OutlineEdge[] {
  const middle = apply(invert(frameFromSpace), width / 2, height / 2);
  const row = (r: number): number[] => [...frameFromSpace.slice(3 * r, 3 * r + 3)];
  const [u, v, w] = [row(0), row(1), row(2)];
  const depth = Math.max(Math.abs(w[0] * middle.x + w[1] * middle.y + w[2]), 1e-9);
  const less = (a: number[], b: number[], times: number): number[] =>
    a.map((value, i) => value - times * b[i]);
  const outside: Record<Edge, number[]> = {
    left: u.map((value) => -value),
    top: v.map((value) => -value),
    right: less(u, w, width),
    bottom: less(v, w, height),
  };
  return edges.map((edge) => {
    const [a, b, c] = outside[edge].map((value) => value / depth);
    return { edge, normal: [a, b], offset: -c };
  });
}

/**
 * The same for a frame whose rows were read one after another: its sides are bent, and straight ones are laid within them.
 */
export function rowOutlineOf(
  frameFromSpace: Mat3,
  size: PictureSize,
  rows: RowMotion | null,
  frame: number,
): OutlineEdge[] {
  const straight = outlineOf(frameFromSpace, size);
  if (!rows) return straight;
  const spaceFromFrame = invert(frameFromSpace);
  const seen = (x: number, y: number) => {
    const p = middlePlace(rows, frame, { x, y });
    return apply(spaceFromFrame, p.x, p.y);
  };
  const { width, height } = size;
  return straight.map(({ edge, normal }) => {
    const side = Array.from({ length: rowKnots }, (_, j) => {
      const t = j / (rowKnots - 1);
      if (edge === 'left' || edge === 'right') return seen(edge === 'left' ? 0 : width, t * height);
      return seen(t * width, edge === 'top' ? 0 : height);
    });
    // Along the side's ends, as long as the straight one's normal, and outwards as that is.
    const [a, b] = [side[0], side[rowKnots - 1]];
    const along = [b.x - a.x, b.y - a.y];
    const outwards = Math.sign(along[1] * normal[0] - along[0] * normal[1]) || 1;
    const times = (outwards * Math.hypot(...normal)) / Math.hypot(...along);
    const [nx, ny] = [along[1] * times, -along[0] * times];
    return { edge, normal: [nx, ny], offset: Math.min(...side.map((p) => nx * p.x + ny * p.y)) };
  });
}
