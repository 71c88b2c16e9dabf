import type { TrackView } from '@lurn/contract';
import { defaultFollowOptions, shapeOf } from '@lurn/core';

const { template, search, model, analysis, below, threshold, longestGap } = defaultFollowOptions;
export const followDefaults = {
  template,
  search,
  shape: shapeOf(model),
  ...analysis,
  below,
  threshold,
  longestGap,
};

/** A track as it is kept, with defaults for what older versions did not know. */
export const whole = (kept: Partial<TrackView>): TrackView =>
  ({ ...followDefaults, offsets: [], ...kept }) as TrackView;
