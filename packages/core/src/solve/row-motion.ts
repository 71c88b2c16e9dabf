import { apply, invert, matrixAt, multiply, scaling, type Mat3, type Point } from '../geometry/mat3.js';
import { BetweenFrames } from './between-frames.js';
import { frameFromReference, type Motion, type MotionShot } from './motion.js';

/** Rows at which a frame's own motion is worked out, from the first to the last, evenly; between them it is straight. */
export const rowKnots = 9;

/** Longer readouts, as a share of a frame, are none of a frame. */
export const mostReadout = 1.2;

/** What a rolling shutter does to frames: each row was read at a moment of its own, and the picture moved on meanwhile. */
export interface RowMotion {
  /** Rows of a frame. */
  height: number;
  /** The frame the table begins with. */
  first: number;
  /** For each frame `rowKnots` matrices: the frame as it stood at its middle moment → the frame as that row has it, clip pixels. */
  matrices: Float64Array;
}

/**
 * The motion of rows (Forssén & Ringaby 2010, rectification of rolling shutter video): with the readout s, row y of frame k is
 * read s·(y/height − ½) of a frame after its middle, and has M(k + that)·M(k)⁻¹ done to it. Null without a readout. Shots
 * shorter than what a moment is taken from are left as they are. Frames of the motion are
 * counted from `from` of the clip.
 */
export function rowMotionOf(
  motion: Pick<Motion, 'frames' | 'matrices' | 'pixelAspect' | 'readout'> & {
    shots?: readonly Pick<MotionShot, 'first' | 'last'>[];
  },
  height: number,
  from = 0,
): RowMotion | null {
  const { readout = 0, frames, shots } = motion;
  if (readout === 0) return null;
  const matrices = new Float64Array(9 * rowKnots * frames);
  for (const { first, last } of shots ?? [{ first: 0, last: frames - 1 }]) {
    const isLong = last - first + 1 >= BetweenFrames.fewest;
    const between = new BetweenFrames(first, last);
    const table = Array.from({ length: last - first + 1 }, (_, i) => frameFromReference(motion, first + i));
    for (let k = first; k <= last; k++) {
      const referenceFromFrame = invert(table[k - first]);
      for (let j = 0; j < rowKnots; j++) {
        let at = table[k - first];
        if (isLong) {
          between.seek(k, readout * (j / (rowKnots - 1) - 0.5));
          at = blended(table, between, first);
        }
        matrices.set(multiply(at, referenceFromFrame), 9 * (rowKnots * k + j));
      }
    }
  }
  return { height, first: from, matrices };
}

function blended(table: readonly Mat3[], { from, weights }: BetweenFrames, first: number): Mat3 {
  const sum = new Float64Array(9);
  weights.forEach((weight, i) => {
    const m = table[from - first + i];
    for (let c = 0; c < 9; c++) sum[c] += (weight * m[c]) / m[8];
  });
  return matrixAt(sum, 0);
}

/** The frame as it stood at its middle moment → the frame as one of its rows has it. */
export const rowMatrix = ({ matrices, first }: RowMotion, frame: number, knot: number): Mat3 =>
  matrixAt(matrices, rowKnots * (frame - first) + knot);

/** The same of a frame that is so many times as wide and as high. */
export function scaledRows({ height, first, matrices }: RowMotion, sx: number, sy: number): RowMotion {
  const scaled = new Float64Array(matrices.length);
  for (let i = 0; 9 * i < matrices.length; i++)
    scaled.set(multiply(scaling(sx, sy), multiply(matrixAt(matrices, i), scaling(1 / sx, 1 / sy))), 9 * i);
  return { height: height * sy, first, matrices: scaled };
}

/** The matrix of a row, clip pixels from the top, between those of its knots. */
function matrixOfRow({ height, first, matrices }: RowMotion, frame: number, row: number): Mat3 {
  const place = Math.min(Math.max((row / height) * (rowKnots - 1), 0), rowKnots - 1);
  const knot = Math.min(Math.floor(place), rowKnots - 2);
  const t = place - knot;
  const at = 9 * (rowKnots * (frame - first) + knot);
  const m = (c: number): number => (1 - t) * matrices[at + c] + t * matrices[at + 9 + c];
  return [m(0), m(1), m(2), m(3), m(4), m(5), m(6), m(7), m(8)];
}

/** Which row a point is read by hangs on where that row has it: so many rounds settle it far below what can be seen. */
const rounds = 4;

/** Where in the frame, as it was read, a point of it is that is given as it stood at the frame's middle moment. */
export function readPlace(rows: RowMotion | null, frame: number, { x, y }: Point): Point {
  if (!rows) return { x, y };
  let read = { x, y };
  for (let i = 0; i < rounds; i++) read = apply(matrixOfRow(rows, frame, read.y), x, y);
  return read;
}

/** Where a point of the frame, as it was read, stood at the frame's middle moment. */
export const middlePlace = (rows: RowMotion | null, frame: number, { x, y }: Point): Point =>
  rows ? apply(invert(matrixOfRow(rows, frame, y)), x, y) : { x, y };
