import { SampleState, type Samples } from '../samples.js';

const columns = ['x', 'y', 'rotation', 'scale'] as const;

/** A Gaussian is followed out to so many of its standard deviations. */
const reach = 3;

/**
 * Smooths a track's own path from `first` to `last` by a local line fitted with Gaussian weights, `sigma` frames wide:
 * a steady move stays what it was, to both ends. Keys stay, and what is smoothed goes through them again: what they would
 * have been moved by is taken back, evenly between them. Frames without a place have no say.
 */
export function smoothSamples(samples: Samples, first: number, last: number, sigma: number): void {
  const { frames, state } = samples;
  const moved = columns.map((column) => {
    const values = samples[column];
    const result = new Float64Array(last - first + 1);
    for (let k = first; k <= last; k++) {
      if (!samples.found(k)) continue;
      let [w0, w1, w2, v0, v1] = [0, 0, 0, 0, 0];
      const width = Math.ceil(reach * sigma);
      for (let j = Math.max(0, k - width); j <= Math.min(frames - 1, k + width); j++) {
        if (!samples.found(j)) continue;
        const weight = Math.exp(-((j - k) ** 2) / (2 * sigma * sigma));
        w0 += weight;
        w1 += weight * (j - k);
        w2 += weight * (j - k) ** 2;
        v0 += weight * values[j];
        v1 += weight * values[j] * (j - k);
      }
      const determinant = w0 * w2 - w1 * w1;
      const fitted = determinant > 1e-9 * w0 * w0 ? (v0 * w2 - v1 * w1) / determinant : v0 / w0;
      result[k - first] = fitted - values[k];
    }
    return result;
  });
  // What stays where it is: keys, and the frames beside the span.
  const pins = [first - 1, ...samples.keys().filter((k) => k >= first && k <= last), last + 1];
  columns.forEach((column, c) => {
    const shift = moved[c];
    const at = (k: number): number => (k >= first && k <= last ? shift[k - first] : 0);
    for (let i = 0; i + 1 < pins.length; i++)
      for (let k = pins[i] + 1; k < pins[i + 1]; k++) {
        if (!samples.found(k) || state[k] === SampleState.placed) continue;
        const t = (k - pins[i]) / (pins[i + 1] - pins[i]);
        samples[column][k] += shift[k - first] - ((1 - t) * at(pins[i]) + t * at(pins[i + 1]));
      }
  });
}
