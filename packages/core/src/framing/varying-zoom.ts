import { startOf, type FrameTimes } from '../geometry/frame-times.js';
import { invert, matrixAt } from '../geometry/mat3.js';
import type { RowMotion } from '../solve/row-motion.js';
import { largestZoom } from './fit-framing.js';
import { outputOf, windowOf, type Framing, type View } from './framing.js';
import { rowOutlineOf } from './outline.js';

/** How fast a wholly restless zoom may change: of itself, a second. */
const mostRate = 0.08;
/** Seconds over which its pace is gone over into, before and after. */
const easing = 0.6;
/** Half-extent given away so that rounding never shows a bare edge, as a share. */
const margin = 1e-6;

export interface VaryingOptions {
  /** The framing that hides every bare edge with one zoom; its point in the middle is kept. */
  framing: Framing;
  /** 0 is the smallest constant zoom; 1 lets it change by up to 8 % a second. */
  restlessness: number;
  times: FrameTimes;
  /** Stretches of frames that are framed each by itself; nothing is gone over into from one to the next. */
  shots: readonly { first: number; last: number }[];
  rows: RowMotion | null;
}

/**
 * A zoom for each frame that leaves no bare edge and changes slowly: the most room that each frame leaves about the kept middle,
 * under which a curve of limited slope is laid (an erosion by a cone), which is then lowered to its least within the easing and
 * averaged over it: a mean of values none of which is above the frame's own is not above it either. So it never pumps, and
 * with no restlessness it is constant. Frames beyond the shots have the zoom of the nearest.
 */
export function varyingZoom(corrections: Float64Array, view: View, options: VaryingOptions): Float64Array {
  const { framing, restlessness, times, shots } = options;
  const zooms = new Float64Array(corrections.length / 9).fill(framing.zoom);
  for (const { first, last } of shots) {
    // As logarithms of half-extents: a rate is one of the zoom itself.
    const room = Float64Array.from({ length: last - first + 1 }, (_, i) =>
      Math.log(roomOn(corrections, first + i, view, options)),
    );
    const at = Float64Array.from(room, (_, i) => startOf(times, first + i));
    const eased = averaged(lowest(coned(room, at, mostRate * restlessness), at), at);
    eased.forEach(
      (value, i) => (zooms[first + i] = (windowOf(view).width / 2 / Math.exp(value)) * (1 + margin)),
    );
    zooms.fill(zooms[first], 0, first);
    zooms.fill(zooms[last], last + 1);
  }
  return zooms;
}

/** Half of the widest window about the kept middle that lies inside a frame, clip pixels. */
function roomOn(
  corrections: Float64Array,
  frame: number,
  view: View,
  { framing, rows }: VaryingOptions,
): number {
  const [output, window] = [outputOf(view), windowOf(view)];
  const scale = (framing.zoom * output.width) / window.width;
  const scaleDown = (framing.zoom * output.height) / window.height;
  const x = view.width / 2 - framing.offsetX / scale;
  const y = view.height / 2 - framing.offsetY / scaleDown;
  let half = window.width / 2;
  for (const { normal, offset } of rowOutlineOf(invert(matrixAt(corrections, frame)), view, rows, frame)) {
    const [nx, ny] = normal;
    const reach = Math.abs(nx) + (Math.abs(ny) * window.height) / window.width;
    half = Math.min(half, (offset - nx * x - ny * y) / reach);
  }
  return Math.max(half, window.width / 2 / largestZoom);
}

/** The highest curve below another that rises and falls by no more than so much a second. */
function coned(values: Float64Array, at: Float64Array, rate: number): Float64Array {
  const curve = values.slice();
  for (let i = 1; i < curve.length; i++)
    curve[i] = Math.min(curve[i], curve[i - 1] + rate * (at[i] - at[i - 1]));
  for (let i = curve.length - 2; i >= 0; i--)
    curve[i] = Math.min(curve[i], curve[i + 1] + rate * (at[i + 1] - at[i]));
  return curve;
}

/** What each value comes to with all those within the easing; beyond the ends there are none. */
function within(
  values: Float64Array,
  at: Float64Array,
  taken: (values: Float64Array, from: number, to: number) => number,
): Float64Array {
  let [from, to] = [0, 0];
  return values.map((_, i) => {
    while (at[i] - at[from] > easing) from++;
    while (to < values.length && at[to] - at[i] <= easing) to++;
    return taken(values, from, to);
  });
}

const lowest = (values: Float64Array, at: Float64Array): Float64Array =>
  within(values, at, (all, from, to) => Math.min(...all.subarray(from, to)));

const averaged = (values: Float64Array, at: Float64Array): Float64Array =>
  within(values, at, (all, from, to) => all.subarray(from, to).reduce((sum, v) => sum + v, 0) / (to - from));
