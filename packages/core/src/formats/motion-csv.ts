import { apply } from '../geometry/mat3.js';
import type { PictureSize } from '../framing/framing.js';
import { curvesOf, frameFromReference, type Motion } from '../solve/motion.js';

/** What a row says of a frame: where the motion's pivot is and how it is turned and sized, or where four corners are. */
export const motionCsvKinds = ['pose', 'corners'] as const;
export type MotionCsvKind = (typeof motionCsvKinds)[number];

const degrees = 180 / Math.PI;
const rounded = (value: number, digits: number): string => `${Number(value.toFixed(digits))}`;

/**
 * A motion as comma-separated values, a row a frame. `pose`: x and y of the pivot, clip pixels, its turn in degrees, clockwise, and
 * its size against the reference frame. `corners`: where the corners of the reference frame's picture stand, upper left first and
 * on clockwise, clip pixels.
 */
export function writeMotionCsv(
  motion: Motion,
  size: PictureSize,
  { first, last }: { first: number; last: number },
  kind: MotionCsvKind,
): string {
  const lines: string[] = [];
  if (kind === 'pose') {
    lines.push('frame,x,y,rotation,scale');
    const { x, y, rotation, scale } = curvesOf(motion);
    const { pivot, pixelAspect } = motion;
    for (let k = first; k <= last; k++)
      lines.push(
        [
          k,
          rounded((pivot.x + x[k]) / pixelAspect, 4),
          rounded(pivot.y + y[k], 4),
          rounded(degrees * rotation[k], 5),
          rounded(scale[k], 7),
        ].join(','),
      );
  } else {
    lines.push('frame,x1,y1,x2,y2,x3,y3,x4,y4');
    const corners = [
      [0, 0],
      [size.width, 0],
      [size.width, size.height],
      [0, size.height],
    ];
    for (let k = first; k <= last; k++) {
      const at = frameFromReference(motion, k);
      const places = corners.flatMap(([u, v]) => {
        const { x, y } = apply(at, u, v);
        return [rounded(x, 4), rounded(y, 4)];
      });
      lines.push([k, ...places].join(','));
    }
  }
  return lines.join('\r\n') + '\r\n';
}
