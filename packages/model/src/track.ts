import {
  belowChoices,
  channels,
  defaultFollowOptions,
  fieldChoices,
  filters,
  shapeOf,
  shapes,
  type Analysis,
  type FollowOptions,
  type Offset,
  type Shape,
  type Size,
} from '@lurn/core';
import { Choice, Flag, Frame, Part, Parts, Pixels, Share, Whole, Words } from './fields.js';
import { RegionRecord } from './region.js';
import { PlaceRecord } from './spline.js';

const { template, search, model, analysis, below, threshold, longestGap } = defaultFollowOptions;

/** How a track is followed unless something else is said. */
export const followDefaults = {
  template,
  search,
  shape: shapeOf(model),
  ...analysis,
  below,
  threshold,
  longestGap,
};

export const trackKinds = ['point', 'region'] as const;

/** A box about a point, full size in clip pixels. */
export class BoxSize implements Size {
  @Whole(7, 4001, { description: 'Full width in clip pixels' }) width!: number;
  @Whole(7, 4001, { description: 'Full height in clip pixels' }) height!: number;
}

/** From the key on this frame another feature is followed, so far from the wanted point, clip pixels. */
export class OffsetRecord implements Offset {
  @Frame() frame!: number;
  @Pixels() x!: number;
  @Pixels() y!: number;
}

/** A stretch that someone looked at and found right; `mark` tells its samples, so that it lapses when they change. */
export class AcceptedSpan {
  @Frame() first!: number;
  @Frame() last!: number;
  @Whole(0, 0xffffffff) mark!: number;
}

/** A region of a track, whole: nothing of it may be left out. */
export class FullRegionRecord extends RegionRecord {
  @Part(() => PlaceRecord) override centre!: PlaceRecord;

  @Parts(() => PlaceRecord, { least: 4, most: 4, description: 'Upper left and right, lower right and left' })
  override quad!: [PlaceRecord, PlaceRecord, PlaceRecord, PlaceRecord];
}

/** Something that is followed through a clip, and how; its samples lie in pages beside it. */
export class TrackRecord {
  @Words(0, 120) id!: string;
  @Words(0, 120, { optional: true }) clipId!: string;
  @Words(1, 80) name!: string;
  @Choice(trackKinds) kind: (typeof trackKinds)[number] = 'point';

  @Whole(-1_000_000, 1_000_000, { description: 'Place in the list, and choice of hue' })
  position!: number;

  @Flag({ description: 'Not drawn' }) hidden: boolean = false;
  @Flag({ description: 'Cannot be moved or tracked' }) locked: boolean = false;
  @Flag({ description: 'Has a say in the motion' }) used: boolean = true;
  @Part(() => BoxSize) template: Size = followDefaults.template;
  @Part(() => BoxSize) search: Size = followDefaults.search;

  @Choice(shapes, { description: 'What the box may do besides shifting' })
  shape: Shape = followDefaults.shape;

  @Choice(channels, { description: 'What of the colour is looked at' })
  channel: Analysis['channel'] = followDefaults.channel;

  @Choice(filters) filter: Analysis['filter'] = followDefaults.filter;

  @Choice(fieldChoices, { description: 'Lines of interlaced material that are looked at' })
  fields: Analysis['fields'] = followDefaults.fields;

  @Choice(belowChoices, { description: 'What happens below the threshold' })
  below: FollowOptions['below'] = followDefaults.below;

  @Share({ description: 'Confidence, 0 to 1' }) threshold: number = followDefaults.threshold;

  @Whole(1, 10_000, { description: 'The most frames that are bridged' })
  longestGap: number = followDefaults.longestGap;

  @Parts(() => OffsetRecord, { most: 5000 }) offsets: OffsetRecord[] = [];

  @Parts(() => AcceptedSpan, { most: 2000, description: 'Stretches that were looked at and found right' })
  accepted: AcceptedSpan[] = [];

  @Part(() => FullRegionRecord, { nullable: true, description: 'Where a region lies; null for a point' })
  region: FullRegionRecord | null = null;
}

/** What can be chosen of how a track is followed. */
export const followFields = [
  ...(['template', 'search', 'shape', 'channel', 'filter', 'fields'] as const),
  ...(['below', 'threshold', 'longestGap'] as const),
] as const;

/** What can be changed of a track. */
export const trackFields = ['name', 'hidden', 'locked', 'used', 'accepted', ...followFields] as const;

/** A track as it was kept, by this or an older version: with defaults, and the older name of a filter. */
export function trackAsToday(kept: object): TrackRecord {
  const view = {
    ...followDefaults,
    offsets: [],
    accepted: [],
    region: null,
    ...kept,
  } as unknown as TrackRecord;
  return (view.filter as string) === 'enhance' ? { ...view, filter: 'local-contrast' } : view;
}
