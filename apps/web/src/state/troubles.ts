import { SampleState, type Samples } from '@lurn/core';

/** Below this a sample is worth a look. */
const doubtful = 0.8;

/** First frames of the stretches in which a track is lost, bridged or doubtful. */
export function troubles(samples: Samples | undefined): number[] {
  if (!samples) return [];
  const bad = (k: number): boolean =>
    samples.state[k] === SampleState.lost ||
    samples.state[k] === SampleState.bridged ||
    (samples.state[k] === SampleState.tracked && samples.confidence[k] < doubtful);
  return Array.from({ length: samples.frames }, (_, k) => k).filter(
    (k) => bad(k) && (k === 0 || !bad(k - 1)),
  );
}
