import { steady, type SteadyResult } from '@lurn/core';
import { SampleKeeper } from './sample-keeper';
import type { SolvingOrder } from './solving-order';

const keeper = new SampleKeeper();

self.onmessage = ({ data: { tracks, clip, settings } }: MessageEvent<SolvingOrder>) => {
  const result: SteadyResult = steady(keeper.take(tracks, clip.times.frames), clip, settings);
  const { placements, correction, motion } = result;
  self.postMessage(result, {
    transfer: [placements.buffer, correction.matrices.buffer, motion.matrices.buffer],
  });
};
