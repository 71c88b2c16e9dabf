import type { TrackView } from '@lurn/contract';
import {
  carryBy,
  modelOf,
  regionOptions,
  type FollowOptions,
  type Samples,
  type SteadyClip,
} from '@lurn/core';

/** A track's settings as the core takes them, but for what a region is. */
export function plainFollowOptions(track: TrackView): FollowOptions {
  const { template, search, shape, channel, filter, fields, below, threshold, longestGap } = track;
  const analysis = { channel, filter, fields };
  return { template, search, model: modelOf(shape), analysis, below, threshold, longestGap };
}

/** The same with its region; `samplesOf` has what the tracks that carry its hold-outs have found. */
export async function followOptions(
  track: TrackView,
  clip: SteadyClip,
  samplesOf: (trackId: string) => Promise<Samples | null>,
): Promise<FollowOptions> {
  const options = plainFollowOptions(track);
  if (!track.region) return options;
  const ids = new Set(track.region.holdOuts.flatMap(({ trackId }) => trackId ?? []));
  const carriers = new Map<string, Samples>();
  for (const id of ids) {
    const samples = await samplesOf(id);
    if (samples) carriers.set(id, samples);
  }
  const region = regionOptions(track.region, ({ trackId, frame }) => {
    const samples = trackId === undefined ? undefined : carriers.get(trackId);
    return samples ? carryBy([samples], clip, frame) : null;
  });
  return { ...options, region };
}
