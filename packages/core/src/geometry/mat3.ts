/**
 * 3×3 matrices for points of the plane: row-major, mapping column vectors (x, y, 1).
 * A matrix's name says its direction: `outputFromFrame` takes frame points to output points.
 */
export type Mat3 = readonly [number, number, number, number, number, number, number, number, number];

export interface Point {
  x: number;
  y: number;
}

export const identity: Mat3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The matrix that applies `b` first, then `a`. */
export function multiply(a: Mat3, b: Mat3): Mat3 {
  return [
    a[0] * b[0] + a[1] * b[3] + a[2] * b[6],
    a[0] * b[1] + a[1] * b[4] + a[2] * b[7],
    a[0] * b[2] + a[1] * b[5] + a[2] * b[8],
    a[3] * b[0] + a[4] * b[3] + a[5] * b[6],
    a[3] * b[1] + a[4] * b[4] + a[5] * b[7],
    a[3] * b[2] + a[4] * b[5] + a[5] * b[8],
    a[6] * b[0] + a[7] * b[3] + a[8] * b[6],
    a[6] * b[1] + a[7] * b[4] + a[8] * b[7],
    a[6] * b[2] + a[7] * b[5] + a[8] * b[8],
  ];
}

/** A matrix that flattens the plane: nothing leads back. */
export class SingularMatrix extends RangeError {
  override name = 'SingularMatrix';
}

/** The inverse; that of an affine matrix is exactly affine. Throws a SingularMatrix when there is none. */
export function invert(m: Mat3): Mat3 {
  const c0 = m[4] * m[8] - m[5] * m[7];
  const c1 = m[5] * m[6] - m[3] * m[8];
  const c2 = m[3] * m[7] - m[4] * m[6];
  const det = m[0] * c0 + m[1] * c1 + m[2] * c2;
  if (!(Math.abs(det) > 1e-300))
    throw new SingularMatrix('This matrix cannot be inverted: it flattens the plane.');
  const s = 1 / det;
  return [
    c0 * s,
    (m[2] * m[7] - m[1] * m[8]) * s,
    (m[1] * m[5] - m[2] * m[4]) * s,
    c1 * s,
    (m[0] * m[8] - m[2] * m[6]) * s,
    (m[2] * m[3] - m[0] * m[5]) * s,
    c2 * s,
    (m[1] * m[6] - m[0] * m[7]) * s,
    isAffine(m) ? 1 : (m[0] * m[4] - m[1] * m[3]) * s,
  ];
}

/** Where `m` takes the point; with a perspective matrix, after the division. */
export function apply(m: Mat3, x: number, y: number): Point {
  const w = m[6] * x + m[7] * y + m[8];
  return { x: (m[0] * x + m[1] * y + m[2]) / w, y: (m[3] * x + m[4] * y + m[5]) / w };
}

export const translation = (x: number, y: number): Mat3 => [1, 0, x, 0, 1, y, 0, 0, 1];

export const scaling = (x: number, y: number): Mat3 => [x, 0, 0, 0, y, 0, 0, 0, 1];

/**
 * A matrix of square-pixel space as one of clip pixels, which are `pixelAspect` times as wide as high; x in square
 * pixels is x in clip pixels times that.
 */
export const fromSquarePixels = (m: Mat3, pixelAspect: number): Mat3 =>
  pixelAspect === 1
    ? m
    : [
        m[0],
        m[1] / pixelAspect,
        m[2] / pixelAspect,
        m[3] * pixelAspect,
        m[4],
        m[5],
        m[6] * pixelAspect,
        m[7],
        m[8],
      ];

/** A matrix of clip pixels as one of square-pixel space. */
export const toSquarePixels = (m: Mat3, pixelAspect: number): Mat3 => fromSquarePixels(m, 1 / pixelAspect);

/** The same motion with a last number of 1. */
export const normalised = (m: Mat3): Mat3 => m.map((value) => value / m[8]) as unknown as Mat3;

/** True when the last row is 0 0 1: no perspective. */
export const isAffine = (m: Mat3): boolean => m[6] === 0 && m[7] === 0 && m[8] === 1;

/** Reads matrix `index` from a packed table of nine numbers each. */
export function matrixAt(table: ArrayLike<number>, index: number): Mat3 {
  const o = index * 9;
  return [
    table[o],
    table[o + 1],
    table[o + 2],
    table[o + 3],
    table[o + 4],
    table[o + 5],
    table[o + 6],
    table[o + 7],
    table[o + 8],
  ];
}

/** How much larger than things are about a point, along a side. */
export function scaleAbout(m: Mat3, { x, y }: Point): number {
  const w = m[6] * x + m[7] * y + m[8];
  const [X, Y] = [(m[0] * x + m[1] * y + m[2]) / w, (m[3] * x + m[4] * y + m[5]) / w];
  const [a, b, c, d] = [m[0] - X * m[6], m[1] - X * m[7], m[3] - Y * m[6], m[4] - Y * m[7]];
  return Math.sqrt(Math.abs(a * d - b * c)) / Math.abs(w);
}
