import type { PictureSize } from '../framing/framing.js';
import { apply, invert, matrixAt, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import { frameFromReference, type Motion } from '../solve/motion.js';
import type { PixelBox } from './warp-picture.js';

/** How a clip's frames lie to each other: each as the motion has it, and the shots that nothing is taken across. */
export interface Carried {
  /** Nine numbers a frame, clip pixels. */
  frameFromReference: Float64Array;
  shots: readonly { first: number; last: number }[];
  /** Where tracks were found, clip pixels; NaN on frames where they were not. */
  tracks?: readonly { x: Float64Array; y: Float64Array }[];
}

/** What is known of a track's places. */
interface Tracked {
  found: (frame: number) => boolean;
  get: (frame: number) => Point | null;
}

/** How a clip's frames lie to each other by a motion, and near tracks by those. */
export function carriedBy(motion: Motion, tracks: readonly Tracked[] = []): Carried {
  const table = new Float64Array(9 * motion.frames);
  for (let k = 0; k < motion.frames; k++) table.set(frameFromReference(motion, k), 9 * k);
  const placesOf = (track: Tracked) => {
    const places = Array.from({ length: motion.frames }, (_, k) => (track.found(k) ? track.get(k) : null));
    return {
      x: Float64Array.from(places, (p) => p?.x ?? NaN),
      y: Float64Array.from(places, (p) => p?.y ?? NaN),
    };
  };
  return {
    frameFromReference: table,
    shots: motion.shots ?? [{ first: 0, last: motion.frames - 1 }],
    tracks: tracks.map(placesOf),
  };
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
 * time and reaches it, no farther than `reach`. What is held moves alike in all of them; where tracks near by say that what is
 * there moves otherwise, the frame is shifted by that.
 */
export function fillFrames(
  { frameFromReference: table, shots, tracks = [] }: Carried,
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
      if (left.length < open.length) {
        const filled = open.filter((p) => isIn(back, p));
        const shift = shiftBetween(tracks, [frame, outputFromFrame], [j, matrix], filled, size);
        found.push({ frame: j, outputFromFrame: multiply(shift, matrix) });
      }
      open = left;
    }
  return found.reverse();
}

/** A track counts for what is filled within about this share of the frame's width. */
const nearTracks = 1 / 8;
/** What a track has to weigh to be followed half-way. */
const halfFollowed = 0.25;
/** A track that goes this far its own way, as a share of the width, is of something that moves by itself. */
const goesAlone = 0.03;

/** By how much tracks near some places say that another frame lies beside where the motion has it. */
function shiftBetween(
  tracks: NonNullable<Carried['tracks']>,
  [frame, own]: readonly [number, Mat3],
  [other, placed]: readonly [number, Mat3],
  places: readonly Point[],
  size: PictureSize,
): Mat3 {
  const middle = {
    x: places.reduce((sum, p) => sum + p.x, 0) / places.length,
    y: places.reduce((sum, p) => sum + p.y, 0) / places.length,
  };
  const reach = nearTracks * size.width;
  let [weight, x, y] = [halfFollowed, 0, 0];
  for (const track of tracks) {
    if (Number.isNaN(track.x[frame]) || Number.isNaN(track.x[other])) continue;
    const here = apply(own, track.x[frame], track.y[frame]);
    const there = apply(placed, track.x[other], track.y[other]);
    const [dx, dy] = [here.x - there.x, here.y - there.y];
    if (Math.hypot(dx, dy) > goesAlone * size.width) continue;
    const near = Math.exp(-0.5 * (Math.hypot(here.x - middle.x, here.y - middle.y) / reach) ** 2);
    weight += near;
    x += near * dx;
    y += near * dy;
  }
  return translation(x / weight, y / weight);
}

/** Places from one end to the other, both included. */
function steps(from: number, to: number): number[] {
  const count = Math.max(1, Math.ceil((to - from) / apart));
  return Array.from({ length: count + 1 }, (_, i) => from + ((to - from) * i) / count);
}
