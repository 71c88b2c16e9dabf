import { apply, invert, matrixAt, multiply } from '../geometry/mat3.js';
import { outputOf, type PictureSize, type View } from '../framing/framing.js';
import { readPlace, type RowMotion } from '../solve/row-motion.js';

/** What steadying has done to a clip, and what it costs. */
export interface SteadyReport {
  /** RMS of the second differences of the picture's corners, pixels a frame squared: in the source, and as they are seen. */
  shakeBefore: number;
  shakeAfter: number;
  /** The share of the source's area that the output does not show, on average. */
  lost: number;
  /** The share of the detail along a side that enlarging the source takes, on average: 0 where none is enlarged. */
  softer: number;
  /** The least source pixels to an output pixel, along a side, and the frame that has it. */
  sharpest: { pixels: number; frame: number };
  /** Frames on which there is less than one. */
  coarse: number;
}

/** What is on each frame: nine numbers each, reference frame → frame, and frame → output. */
export interface SteadiedFrames {
  first: number;
  frameFromReference: Float64Array;
  outputFromFrame: Float64Array;
  /** Frames on which another shot begins: nothing is compared across them. */
  cuts?: readonly number[];
  /** Where rows were read one after another, and are put right. */
  rows?: RowMotion | null;
}

/** RMS of the second differences of the picture's four corners under a table of matrices. */
function unevenness(
  at: (k: number, x: number, y: number) => { x: number; y: number },
  count: number,
  size: PictureSize,
  isCut: (k: number) => boolean,
) {
  let [sum, terms] = [0, 0];
  for (const x of [0, size.width])
    for (const y of [0, size.height])
      for (let k = 2; k < count; k++) {
        if (isCut(k) || isCut(k - 1)) continue;
        const [a, b, c] = [at(k - 2, x, y), at(k - 1, x, y), at(k, x, y)];
        sum += (c.x - 2 * b.x + a.x) ** 2 + (c.y - 2 * b.y + a.y) ** 2;
        terms++;
      }
  return terms > 0 ? Math.sqrt(sum / terms) : 0;
}

/** The area of the output's rectangle on the source, of the source's own. */
function shareShown(outputFromFrame: Float64Array, k: number, view: View): number {
  const { width, height } = outputOf(view);
  const back = invert(matrixAt(outputFromFrame, k));
  const corners = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ].map(([x, y]) => apply(back, x, y));
  const twice = corners.reduce((area, p, i) => {
    const q = corners[(i + 1) % 4];
    return area + p.x * q.y - q.x * p.y;
  }, 0);
  return Math.abs(twice) / 2 / (view.width * view.height);
}

/** Reports what the placements of a motion come to. */
export function reportOf(
  { first, frameFromReference, outputFromFrame, cuts, rows = null }: SteadiedFrames,
  size: View,
): SteadyReport {
  const output = outputOf(size);
  const pixels = (size.width * size.height) / (output.width * output.height);
  const count = frameFromReference.length / 9;
  const begins = new Set(cuts);
  const isCut = (k: number): boolean => begins.has(first + k);
  const source = (k: number, x: number, y: number) =>
    readPlace(rows, first + k, apply(matrixAt(frameFromReference, k), x, y));
  const seen = (k: number, x: number, y: number) =>
    apply(multiply(matrixAt(outputFromFrame, k), matrixAt(frameFromReference, k)), x, y);
  let [shown, softer] = [0, 0];
  let sharpest = { pixels: Infinity, frame: first };
  let coarse = 0;
  for (let k = 0; k < count; k++) {
    const share = shareShown(outputFromFrame, k, size);
    shown += Math.min(share, 1);
    const side = Math.sqrt(share * pixels);
    softer += Math.max(0, 1 - side);
    if (side < 1) coarse++;
    if (side < sharpest.pixels) sharpest = { pixels: side, frame: first + k };
  }
  return {
    shakeBefore: unevenness(source, count, size, isCut),
    shakeAfter: unevenness(seen, count, size, isCut),
    lost: count > 0 ? 1 - shown / count : 0,
    softer: count > 0 ? softer / count : 0,
    sharpest,
    coarse,
  };
}
