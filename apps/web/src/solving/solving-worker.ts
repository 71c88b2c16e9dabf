import { Samples, steady, type SteadyClip, type SteadyResult, type SteadySettings } from '@lurn/core';

/** A track's columns, as they cross from thread to thread. */
export interface SolvingTrack {
  x: Float64Array;
  y: Float64Array;
  state: Uint8Array;
}

export interface SolvingOrder {
  number: number;
  tracks: SolvingTrack[];
  clip: SteadyClip;
  settings: SteadySettings;
}

export interface SolvingNews {
  number: number;
  result: SteadyResult;
}

self.onmessage = ({ data: { number, tracks, clip, settings } }: MessageEvent<SolvingOrder>) => {
  const samples = tracks.map(({ x, y, state }) => {
    const one = new Samples(clip.frames);
    one.x.set(x);
    one.y.set(y);
    one.state.set(state);
    return one;
  });
  const news: SolvingNews = { number, result: steady(samples, clip, settings) };
  self.postMessage(news, {
    transfer: [news.result.placements.buffer, news.result.correction.matrices.buffer],
  });
};
