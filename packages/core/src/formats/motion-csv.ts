import { csvFormatValue } from 'd3-dsv';
import type { PictureSize } from '../framing/framing.js';
import { apply } from '../geometry/mat3.js';
import { curvesOf, frameFromReference, motionMatrix, type Motion } from '../solve/motion.js';
import type { NamedTrack } from './track-file.js';

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

/** A track with the size of its box. */
export type BoxedTrack = NamedTrack & { template: PictureSize };

/**
 * The motion of each track by itself, a row a track and frame on which it was found. `pose`: x and y, clip pixels, its turn in degrees,
 * clockwise, and its size against its first key. `corners`: those of its box, as it was found turned, sized and bent; a region's of its quad.
 */
export function writeTrackMotionsCsv(
  tracks: readonly BoxedTrack[],
  { first, last }: { first: number; last: number },
  kind: MotionCsvKind,
): string {
  const columns = kind === 'pose' ? 'x,y,rotation,scale' : 'x1,y1,x2,y2,x3,y3,x4,y4';
  const lines = [`track,frame,${columns}`];
  for (const { name, samples, template } of tracks)
    for (let k = first; k <= last; k++) {
      const sample = samples.get(k);
      if (!sample || !samples.found(k)) continue;
      const { x, y, rotation, scale, stretch = 0, shear = 0, tiltX = 0, tiltY = 0 } = sample;
      const values =
        kind === 'pose'
          ? [rounded(x, 4), rounded(y, 4), rounded(degrees * rotation, 5), rounded(scale, 7)]
          : samples.corners
            ? samples.cornersAt(k).flatMap((corner) => [rounded(corner.x, 4), rounded(corner.y, 4)])
            : [
                [-1, -1],
                [1, -1],
                [1, 1],
                [-1, 1],
              ].flatMap(([u, v]) => {
                const pose = { x: 0, y: 0, rotation, scale, stretch, shear, tiltX, tiltY };
                const [w, h] = [template.width / 2, template.height / 2];
                const corner = apply(motionMatrix(pose, { x, y }), x + u * w, y + v * h);
                return [rounded(corner.x, 4), rounded(corner.y, 4)];
              });
      lines.push([csvFormatValue(name), k, ...values].join(','));
    }
  return lines.join('\r\n') + '\r\n';
}
