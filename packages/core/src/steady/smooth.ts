import type { FrameTimes } from '../geometry/frame-times.js';

/**
 * Zero-phase Gaussian smoothing of a column, one number a frame, with a standard deviation in seconds. At both ends the
 * column goes on as its own point reflection, so that a steady pan stays exactly what it is up to the last frame.
 */
export const smoothInTime = (column: Float64Array, seconds: number, times: FrameTimes): Float64Array =>
  times.starts
    ? smoothUneven(column, seconds, times.starts)
    : smoothGaussian(column, seconds * times.framesPerSecond);

/** The same for a scale, by its logarithm. */
export const smoothScale = (scale: Float64Array, seconds: number, times: FrameTimes): Float64Array =>
  smoothInTime(scale.map(Math.log), seconds, times).map(Math.exp);

/** The same for an even beat; `sigma` is in frames. */
export function smoothGaussian(column: Float64Array, sigma: number): Float64Array {
  const n = column.length;
  if (!(sigma > 0) || n < 2) return Float64Array.from(column);
  // Beyond one clip length of reflection there is nothing left to learn.
  const reach = Math.min(Math.ceil(4 * sigma), n - 1);
  const kernel = new Float64Array(reach + 1);
  let total = 0;
  for (let i = 0; i <= reach; i++) {
    kernel[i] = Math.exp((-i * i) / (2 * sigma * sigma));
    total += i === 0 ? kernel[i] : 2 * kernel[i];
  }
  const at = (k: number): number => {
    if (k < 0) return 2 * column[0] - column[-k];
    if (k >= n) return 2 * column[n - 1] - column[2 * (n - 1) - k];
    return column[k];
  };
  const smooth = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    let sum = kernel[0] * at(k);
    for (let i = 1; i <= reach; i++) sum += kernel[i] * (at(k - i) + at(k + i));
    smooth[k] = sum / total;
  }
  return smooth;
}

/**
 * Locally weighted linear regression (Cleveland 1979) with Gaussian weights in time, each frame counting for as long as it
 * stands for: on an even beat that is the Gaussian mean, and a move even in time passes unchanged.
 */
function smoothUneven(column: Float64Array, seconds: number, starts: Float64Array): Float64Array {
  const n = column.length;
  if (!(seconds > 0) || n < 2) return Float64Array.from(column);
  const last = n - 1;
  // Frames before the first and after the last are reflections of those within.
  const timeAt = (k: number): number => {
    if (k < 0) return 2 * starts[0] - starts[-k];
    return k > last ? 2 * starts[last] - starts[2 * last - k] : starts[k];
  };
  const valueAt = (k: number): number => {
    if (k < 0) return 2 * column[0] - column[-k];
    return k > last ? 2 * column[last] - column[2 * last - k] : column[k];
  };
  const spanOf = (k: number): number =>
    (timeAt(Math.min(k + 1, 2 * last)) - timeAt(Math.max(k - 1, -last))) / 2;
  return column.map((_, k) => {
    const [here, middle] = [starts[k], column[k]];
    let [w0, w1, w2, v0, v1] = [0, 0, 0, 0, 0];
    const take = (i: number): boolean => {
      const t = timeAt(i) - here;
      if (i < -last || i > 2 * last || Math.abs(t) > 4 * seconds) return false;
      const w = spanOf(i) * Math.exp((-t * t) / (2 * seconds * seconds));
      const v = valueAt(i) - middle;
      w0 += w;
      w1 += w * t;
      w2 += w * t * t;
      v0 += w * v;
      v1 += w * t * v;
      return true;
    };
    for (let i = k; take(i); i--);
    for (let i = k + 1; take(i); i++);
    const spread = w0 * w2 - w1 * w1;
    const mean = spread > 1e-12 * w0 * w2 ? (w2 * v0 - w1 * v1) / spread : v0 / w0;
    return middle + mean;
  });
}
