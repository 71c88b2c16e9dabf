import type { TrackKernels } from '@lurn/core';
import type { Analyser, Look } from '../pass/analyser.js';

/** An analyser for tests: the mean level of each picture, and what it is told of the way to it. */
export interface Brightness {
  frame: number;
  mean: number;
  shared: unknown;
}

export const brightnessModule = import.meta.url;

/** `until`: the frame after which it has found all it wants. */
export const begin = (_: TrackKernels, { until }: { until: number }, direction: 1 | -1): Analyser => ({
  look({ picture, frame, shared }: Look): Brightness {
    const { data } = picture;
    return { frame, mean: data.reduce((sum, level) => sum + level, 0) / data.length, shared: shared?.() };
  },
  busyAfter: (frame) => (until - frame) * direction > 0,
  end: () => undefined,
});
