/**
 * Zero-phase Gaussian smoothing of a column of numbers, `sigma` in frames. At both ends the column goes on
 * as its own point reflection, so that a steady pan stays exactly what it is up to the last frame.
 */
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
