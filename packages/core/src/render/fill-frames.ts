import type { PictureSize } from '../framing/framing.js';
import { apply, invert, matrixAt, multiply, type Mat3, type Point } from '../geometry/mat3.js';
import { frameFromReference, type Motion } from '../solve/motion.js';
import type { PixelBox } from './warp-picture.js';

/** How a clip's frames lie to each other: each as the motion has it, and the shots that nothing is taken across. */
export interface Carried {
  /** Nine numbers a frame, clip pixels. */
  frameFromReference: Float64Array;
  shots: readonly { first: number; last: number }[];
}

/** How a clip's frames lie to each other by a motion. */
export function carriedBy(motion: Motion): Carried {
  const table = new Float64Array(9 * motion.frames);
  for (let k = 0; k < motion.frames; k++) table.set(frameFromReference(motion, k), 9 * k);
  return { frameFromReference: table, shots: motion.shots ?? [{ first: 0, last: motion.frames - 1 }] };
}

/** A frame that shows what another does not, and where it lies in that one's output. */
export interface FillFrame {
  frame: number;
  outputFromFrame: Mat3;
}

/** Output pixels from one place that is asked after to the next. */
const apart = 12;

/**
 * The frames that fill bare boxes of an output, the farthest in time first: of each place that one is taken that is nearest in
 * time and reaches it, no farther than `reach`. What is held moves alike in all of them.
 */
export function fillFrames(
  { frameFromReference: table, shots }: Carried,
  frame: number,
  outputFromFrame: Mat3,
  boxes: readonly PixelBox[],
  size: PictureSize,
  reach: number,
): FillFrame[] {
  const shot = shots.find(({ first, last }) => frame >= first && frame <= last);
  if (!shot) return [];
  const outputFromReference = multiply(outputFromFrame, matrixAt(table, frame));
  const isIn = (back: Mat3, { x, y }: Point): boolean => {
    const p = apply(back, x, y);
    return p.x >= 0 && p.y >= 0 && p.x <= size.width && p.y <= size.height;
  };
  let open: Point[] = [];
  const own = invert(outputFromFrame);
  for (const { left, top, right, bottom } of boxes)
    for (const y of steps(top, bottom))
      for (const x of steps(left, right)) if (!isIn(own, { x, y })) open.push({ x, y });
  const found: FillFrame[] = [];
  for (let away = 1; away <= reach && open.length > 0; away++)
    for (const j of [frame - away, frame + away]) {
      if (j < shot.first || j > shot.last || open.length === 0) continue;
      const matrix = multiply(outputFromReference, invert(matrixAt(table, j)));
      const back = invert(matrix);
      const left = open.filter((p) => !isIn(back, p));
      if (left.length < open.length) found.push({ frame: j, outputFromFrame: matrix });
      open = left;
    }
  return found.reverse();
}

/** Places from one end to the other, both included. */
function steps(from: number, to: number): number[] {
  const count = Math.max(1, Math.ceil((to - from) / apart));
  return Array.from({ length: count + 1 }, (_, i) => from + ((to - from) * i) / count);
}
