import type { TrackView } from '@lurn/contract';
import { modelOf, type FollowOptions } from '@lurn/core';

/** A track's settings as the core takes them. */
export function followOptions(track: TrackView): FollowOptions {
  const { template, search, shape, channel, filter, fields, below, threshold, longestGap } = track;
  const analysis = { channel, filter, fields };
  return { template, search, model: modelOf(shape), analysis, below, threshold, longestGap };
}
