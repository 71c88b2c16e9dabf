import { isFound, noSample, SampleState, type Samples } from '../samples.js';

/**
 * Gives a track another's motion as a start: from the key of its own that is nearest it goes as the other goes. Only
 * frames where it has not been found are written, as bridged; what is followed afterwards takes their place. Returns how
 * many there were; 0 where the two share no frame with a key of the first.
 */
export function carryMotion(samples: Samples, other: Samples): number {
  const keys = samples.keys().filter((k) => other.found(k));
  if (keys.length === 0) return 0;
  let count = 0;
  for (let k = 0; k < samples.frames; k++) {
    if (samples.found(k) || !isFound(other.state[k] as SampleState)) continue;
    const key = keys.reduce((a, b) => (Math.abs(b - k) < Math.abs(a - k) ? b : a));
    samples.set(k, {
      ...noSample,
      ...samples.place(key),
      x: samples.x[key] + other.x[k] - other.x[key],
      y: samples.y[key] + other.y[k] - other.y[key],
      confidence: 0.5,
      state: SampleState.bridged,
    });
    count++;
  }
  return count;
}
