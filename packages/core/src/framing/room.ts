import { matrixAt, multiply, type Mat3 } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import type { RowMotion } from '../solve/row-motion.js';
import { outputOf, overhang, type View } from './framing.js';

/** How far the picture may be moved, turned and sized on a frame, each by itself, before a bare edge shows; low and high. */
export interface Room {
  /** Output pixels. */
  x: [number, number];
  y: [number, number];
  /** Radians. */
  rotation: [number, number];
  /** As a factor. */
  scale: [number, number];
}

export const roomNames = ['x', 'y', 'rotation', 'scale'] as const;

const halvings = 14;
/** As far as is looked, each way: a share of the picture, radians, a factor. */
const farthest = { shift: 0.5, rotation: 0.35, scale: 1.5 };

/** What of a channel is done to the output, about its middle. */
function moved(name: (typeof roomNames)[number], by: number, view: View): Mat3 {
  const { width, height } = outputOf(view);
  const still = { x: 0, y: 0, rotation: 0, scale: 1 };
  const way = name === 'scale' ? { ...still, scale: Math.exp(by) } : { ...still, [name]: by };
  return similarityMatrix(way, { x: width / 2, y: height / 2 });
}

/** The room on one frame; by halving, as perspective bends the edges. Nothing where a bare edge shows already. */
export function roomAt(outputFromFrame: Mat3, size: View, rows: RowMotion | null = null, frame = 0): Room {
  const shows = (name: (typeof roomNames)[number], by: number): boolean =>
    Math.max(...overhang(multiply(moved(name, by, size), outputFromFrame), size, rows, frame)) > 1e-3;
  const reach = (name: (typeof roomNames)[number], most: number): number => {
    if (shows(name, 0)) return 0;
    if (!shows(name, most)) return most;
    let [free, bare] = [0, most];
    for (let i = 0; i < halvings; i++) {
      const middle = (free + bare) / 2;
      if (shows(name, middle)) bare = middle;
      else free = middle;
    }
    return free;
  };
  const both = (name: (typeof roomNames)[number], most: number): [number, number] => [
    reach(name, -most),
    reach(name, most),
  ];
  const [low, high] = both('scale', Math.log(farthest.scale));
  return {
    x: both('x', farthest.shift * outputOf(size).width),
    y: both('y', farthest.shift * outputOf(size).height),
    rotation: both('rotation', farthest.rotation),
    scale: [Math.exp(low), Math.exp(high)],
  };
}

/** The room on frames of a range, at most so many of them, evenly; with the frames they are. */
export function roomOver(
  placements: Float64Array,
  size: View,
  { first, last }: { first: number; last: number },
  most: number,
  rows: RowMotion | null = null,
): { frames: number[]; rooms: Room[] } {
  const step = Math.max(1, Math.ceil((last - first + 1) / most));
  const frames: number[] = [];
  for (let k = first; k <= last; k += step) frames.push(k);
  if (frames.at(-1) !== last) frames.push(last);
  return { frames, rooms: frames.map((k) => roomAt(matrixAt(placements, k), size, rows, k)) };
}
