import { startOf, type FrameTimes } from '../geometry/frame-times.js';
import { invert, matrixAt, type Point } from '../geometry/mat3.js';
import type { RowMotion } from '../solve/row-motion.js';
import { largestZoom } from './fit-framing.js';
import { outputOf, windowOf, type Framing, type View } from './framing.js';
import { rowOutlineOf } from './outline.js';

/** To begin with. */
export const usualRestlessness = 0.5;

/** How fast a wholly restless zoom may change: of itself, a second. */
const mostRate = 0.08;
/** Seconds over which its pace is gone over into, before and after. */
const easing = 0.6;
/** Half-extent given away so that rounding never shows a bare edge, as a share. */
const margin = 1e-6;

export interface VaryingOptions {
  /** The framing that hides every bare edge with one zoom. */
  framing: Framing;
  /** 0 is the smallest constant zoom; 1 lets it change by up to 8 % a second. */
  restlessness: number;
  times: FrameTimes;
  /** Stretches of frames that are framed each by itself; nothing is gone over into from one to the next. */
  shots: readonly { first: number; last: number }[];
  rows: RowMotion | null;
}

/** What is shown of each frame: a zoom each, and the point of the steadied picture in the middle, clip pixels. */
export interface VaryingZoom {
  zooms: Float64Array;
  middle: Point;
}

/**
 * A zoom for each frame that leaves no bare edge and changes slowly: the most room that each frame leaves about a middle
 * under which a curve of limited slope is laid (an erosion by a cone), which is then lowered to its least within the easing and
 * averaged over it: a mean of values none of which is above the frame's own is not above it either. So it never pumps, and
 * with no restlessness it is constant. The middle lies between the one that a constant zoom has and the one that leaves most
 * room on average, as far along as the restlessness lets it and where the least is zoomed. Frames beyond the shots have the zoom
 * of the nearest.
 */
export function varyingZoom(corrections: Float64Array, view: View, options: VaryingOptions): VaryingZoom {
  const { framing, restlessness, shots } = options;
  const sides = new Sides(corrections, view, options);
  const constant = middleOf(framing, view);
  const roomiest = restlessness > 0 ? sides.roomiest(constant, shots) : constant;
  const tried = restlessness > 0 ? [0, 0.25, 0.5, 0.75, 1] : [0];
  return tried
    .map((share) => {
      const middle = {
        x: constant.x + restlessness * share * (roomiest.x - constant.x),
        y: constant.y + restlessness * share * (roomiest.y - constant.y),
      };
      const zooms = zoomsAbout(middle, sides, view, options);
      return { middle, zooms, sum: zooms.reduce((sum, zoom) => sum + zoom, 0) };
    })
    .reduce((a, b) => (b.sum < a.sum ? b : a));
}

function zoomsAbout(middle: Point, sides: Sides, view: View, options: VaryingOptions): Float64Array {
  const { framing, restlessness, times, shots } = options;
  const reach = Math.round(easing * times.framesPerSecond);
  const zooms = new Float64Array(times.frames).fill(framing.zoom);
  shots.forEach(({ first, last }, s) => {
    // As logarithms of half-extents: a rate is one of the zoom itself.
    const room = Float64Array.from({ length: last - first + 1 }, (_, i) =>
      Math.log(sides.roomOn(first + i, middle)),
    );
    const at = Float64Array.from(room, (_, i) => startOf(times, first + i));
    const eased = averaged(lowest(coned(room, at, mostRate * restlessness), reach), reach);
    eased.forEach(
      (value, i) => (zooms[first + i] = (windowOf(view).width / 2 / Math.exp(value)) * (1 + margin)),
    );
    if (s === 0) zooms.fill(zooms[first], 0, first);
    zooms.fill(zooms[last], last + 1);
  });
  return zooms;
}

/** The point of the steadied picture that a framing shows in the middle. */
function middleOf({ zoom, offsetX, offsetY }: Framing, view: View): Point {
  const [output, window] = [outputOf(view), windowOf(view)];
  return {
    x: view.width / 2 - (offsetX * window.width) / (zoom * output.width),
    y: view.height / 2 - (offsetY * window.height) / (zoom * output.height),
  };
}

/** The sides of frames in the steadied picture. */
class Sides {
  /** Four times a frame: normal, offset, and how much of half the window's width reaches towards it. */
  private readonly sides: Float64Array;
  private readonly most: number;

  constructor(corrections: Float64Array, view: View, { rows, shots }: VaryingOptions) {
    const window = windowOf(view);
    this.most = window.width / 2;
    this.sides = new Float64Array((corrections.length / 9) * 16);
    for (const { first, last } of shots)
      for (let k = first; k <= last; k++)
        rowOutlineOf(invert(matrixAt(corrections, k)), view, rows, k).forEach(({ normal, offset }, e) => {
          const [nx, ny] = normal;
          const reach = Math.abs(nx) + (Math.abs(ny) * window.height) / window.width;
          this.sides.set([nx, ny, offset, reach], 16 * k + 4 * e);
        });
  }

  /** Half of the widest window about a middle that lies inside a frame, clip pixels; no less than the largest zoom leaves. */
  roomOn(frame: number, { x, y }: Point): number {
    const { sides, most } = this;
    let half = most;
    for (let at = 16 * frame; at < 16 * frame + 16; at += 4) {
      const free = (sides[at + 2] - sides[at] * x - sides[at + 1] * y) / sides[at + 3];
      if (free < half) half = free;
    }
    return Math.max(half, most / largestZoom);
  }

  /** The middle about which there is most room on average, by steps from another that grow smaller: it is a concave function. */
  roomiest(from: Point, shots: VaryingOptions['shots']): Point {
    const total = (at: Point): number => {
      let sum = 0;
      for (const { first, last } of shots) for (let k = first; k <= last; k++) sum += this.roomOn(k, at);
      return sum;
    };
    let [best, most] = [from, total(from)];
    for (let step = this.most / 8; step > 0.25;) {
      const tried = directions
        .map(([dx, dy]) => ({ x: best.x + step * dx, y: best.y + step * dy }))
        .map((at) => ({ at, room: total(at) }))
        .reduce((a, b) => (b.room > a.room ? b : a));
      if (tried.room > most) [best, most] = [tried.at, tried.room];
      else step /= 2;
    }
    return best;
  }
}

const directions = [-1, 0, 1]
  .flatMap((dx) => [-1, 0, 1].map((dy) => [dx, dy] as const))
  .filter(([dx, dy]) => dx !== 0 || dy !== 0);

/** The highest curve below another that rises and falls by no more than so much a second. */
function coned(values: Float64Array, at: Float64Array, rate: number): Float64Array {
  const curve = values.slice();
  for (let i = 1; i < curve.length; i++)
    curve[i] = Math.min(curve[i], curve[i - 1] + rate * (at[i] - at[i - 1]));
  for (let i = curve.length - 2; i >= 0; i--)
    curve[i] = Math.min(curve[i], curve[i + 1] + rate * (at[i + 1] - at[i]));
  return curve;
}

/** The least of the values up to `reach` before and after each. */
const lowest = (values: Float64Array, reach: number): Float64Array =>
  values.map((_, i) =>
    values.subarray(Math.max(i - reach, 0), i + reach + 1).reduce((a, b) => (b < a ? b : a)),
  );

/** The mean of the values up to `reach` before and after each; beyond the ends they go on as they are there. */
function averaged(values: Float64Array, reach: number): Float64Array {
  const last = values.length - 1;
  const at = (i: number): number => values[i < 0 ? 0 : i > last ? last : i];
  return values.map((_, i) => {
    let sum = 0;
    for (let j = i - reach; j <= i + reach; j++) sum += at(j);
    return sum / (2 * reach + 1);
  });
}
