import { Samples, steady, type SteadyClip, type SteadyResult, type SteadySettings } from '@lurn/core';

/** A track's columns, as they cross from thread to thread. */
export interface SolvingTrack {
  x: Float64Array;
  y: Float64Array;
  state: Uint8Array;
}

export interface SolvingOrder {
  tracks: SolvingTrack[];
  clip: SteadyClip;
  settings: SteadySettings;
}

self.onmessage = ({ data: { tracks, clip, settings } }: MessageEvent<SolvingOrder>) => {
  const samples = tracks.map(({ x, y, state }) => {
    const one = new Samples(clip.times.frames);
    one.x.set(x);
    one.y.set(y);
    one.state.set(state);
    return one;
  });
  const result: SteadyResult = steady(samples, clip, settings);
  self.postMessage(result, { transfer: [result.placements.buffer, result.correction.matrices.buffer] });
};
