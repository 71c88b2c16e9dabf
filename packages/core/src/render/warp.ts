import type { Mat3 } from '../geometry/mat3.js';
import { kept, type Bounds, type Interpolation } from '../kernels/kernels.js';

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** Taps before and after the pixel left of the sampled point. */
const reaches = { linear: [0, 1], cubic: [-1, 2], lanczos: [-2, 3], nearest: [0, 0] } as const;

/** Weight of the tap at distance `d` from the sampled point. */
function tapWeight(d: number, interpolation: Interpolation): number {
  const a = Math.abs(d);
  if (interpolation === 'lanczos') return a < 3 ? sinc(a) * sinc(a / 3) : 0;
  if (interpolation === 'linear') return Math.max(1 - a, 0);
  if (a < 1) return (1.5 * a - 2.5) * a * a + 1;
  return a < 2 ? ((-0.5 * a + 2.5) * a - 4) * a + 2 : 0;
}

/** A plane of levels of any depth, rows of `stride` levels. */
export interface LevelPlane {
  data: Uint8Array | Uint16Array;
  width: number;
  height: number;
  stride: number;
}

/**
 * Resamples one plane, by any matrix: each target pixel's centre goes through `sourceFromTarget` (corner
 * origin); what lands outside `bounds`, or behind the viewer, becomes `fill`, and near the border the
 * outermost pixel is repeated. Linear, Catmull-Rom (Keys 1981, a = −½), Lanczos-3 or the nearest pixel. A `fill` of `kept` leaves
 * the target as it is. The plain twin of the kernels; `most` is the brightest level.
 */
export function warpPlane(
  source: LevelPlane,
  target: LevelPlane,
  sourceFromTarget: Mat3,
  bounds: Bounds,
  interpolation: Interpolation,
  fill: number,
  most = 255,
): void {
  const m = sourceFromTarget;
  const [from, to] = reaches[interpolation];
  const isNearest = interpolation === 'nearest';
  for (let y = 0; y < target.height; y++) {
    for (let x = 0; x < target.width; x++) {
      const cx = x + 0.5;
      const cy = y + 0.5;
      const w = m[6] * cx + m[7] * cy + m[8];
      const u = (m[0] * cx + m[1] * cy + m[2]) / w;
      const v = (m[3] * cx + m[4] * cy + m[5]) / w;
      let level = fill;
      if (w > 0 && u >= bounds.left && u <= bounds.right && v >= bounds.top && v <= bounds.bottom) {
        const ix = Math.floor(isNearest ? u : u - 0.5);
        const iy = Math.floor(isNearest ? v : v - 0.5);
        level = 0;
        let total = 0;
        for (let j = from; j <= to; j++) {
          const row = Math.min(Math.max(iy + j, 0), source.height - 1) * source.stride;
          const wy = isNearest ? 1 : tapWeight(v - 0.5 - iy - j, interpolation);
          for (let i = from; i <= to; i++) {
            const column = Math.min(Math.max(ix + i, 0), source.width - 1);
            const weight = isNearest ? 1 : wy * tapWeight(u - 0.5 - ix - i, interpolation);
            level += weight * source.data[row + column];
            total += weight;
          }
        }
        level = Math.min(Math.max(Math.floor(level / total + 0.5), 0), most);
      } else if (fill === kept) continue;
      target.data[y * target.stride + x] = level;
    }
  }
}

/** Each pixel the mean of a square of `times` by `times` of the source, rounded; the plain twin of the kernel. */
export function shrinkPlane(source: LevelPlane, target: LevelPlane, times: number): void {
  for (let y = 0; y < target.height; y++)
    for (let x = 0; x < target.width; x++) {
      let sum = (times * times) >> 1;
      for (let j = 0; j < times; j++)
        for (let i = 0; i < times; i++) sum += source.data[(y * times + j) * source.stride + x * times + i];
      target.data[y * target.stride + x] = Math.floor(sum / (times * times));
    }
}
