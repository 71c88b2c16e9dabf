import type { TrackView } from '@lurn/contract';
import { carriedRegion, modelOf, type FollowOptions, type Samples, type SteadyClip } from '@lurn/core';

/** A track's settings as the core takes them, but for what a region is. */
export function plainFollowOptions(track: TrackView): FollowOptions {
  const { template, search, shape, channel, filter, fields, below, threshold, longestGap } = track;
  const analysis = { channel, filter, fields };
  return { template, search, model: modelOf(shape), analysis, below, threshold, longestGap };
}

/** The same with its region; `carriers` are the samples of the tracks that its hold-outs ride on. */
export function followOptions(
  track: TrackView,
  clip: SteadyClip,
  carriers: ReadonlyMap<string, Samples>,
): FollowOptions {
  const options = plainFollowOptions(track);
  return track.region ? { ...options, region: carriedRegion(track.region, carriers, clip) } : options;
}
