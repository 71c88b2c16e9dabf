import {
  Choice,
  Frame,
  Num,
  Part,
  partOf,
  Parts,
  Pixels,
  PlaceRecord,
  RegionRecord,
  SplineRecord,
  Strings,
  TrackRecord,
  Words,
  followFields,
  trackFields,
  Whole,
} from '@lurn/model';
import { Type } from 'class-transformer';

export type { AcceptedSpan } from '@lurn/model';

/** Something that is followed through a clip. */
export type TrackView = TrackRecord;
/** A flat thing that is followed whole. All of it is in clip pixels of the frame that it was drawn on. */
export type RegionView = NonNullable<TrackView['region']>;

export const keyInterpolations = ['linear', 'smooth'] as const;

/** What can be chosen of how a track is followed. */
export class FollowSettings extends partOf(
  TrackRecord,
  followFields.filter((name) => name !== 'template' && name !== 'search'),
) {}

export class PlaceRequest extends PlaceRecord {}

export class KeyRequest extends PlaceRequest {
  @Part(() => PlaceRequest, {
    optional: true,
    description: 'Where the box lies when another feature is followed from here on: pixels from the point',
  })
  aside?: PlaceRequest;
}

/** How new tracks are to be followed. */
class Followed extends partOf(TrackRecord, ['template', 'search']) {
  @Part(() => FollowSettings, { optional: true, description: 'How it is to be followed' })
  settings?: FollowSettings;
}

export class NewTrackRequest extends Followed {
  @Pixels() x!: number;
  @Pixels() y!: number;
  @Frame({ description: 'The frame it is placed on' }) frame!: number;
}

/** What can be changed of a region; its samples stay as they are. */
export class RegionPatch extends partOf(RegionRecord, ['outlines', 'holdOuts', 'quad']) {}

/** Where the four corners of a region's quad belong on a frame. */
export class CornersRequest {
  @Parts(() => PlaceRecord, { least: 4, most: 4, description: 'Upper left and right, lower right and left' })
  corners!: PlaceRecord[];
}

export class TrackPatch extends partOf(TrackRecord, trackFields) {
  @Part(() => RegionPatch, {
    optional: true,
    description: 'Of a region: where it is looked for, and its quad',
  })
  region?: RegionPatch;
}

/** A flat area to follow whole, drawn on a frame. */
export class NewRegionRequest extends partOf(RegionRecord, ['quad']) {
  @Frame({ description: 'The frame it is drawn on' }) frame!: number;

  @Parts(() => SplineRecord, { least: 1, most: 20, description: 'Where to look, drawn loosely' })
  splines!: SplineRecord[];

  @Words(1, 80, { optional: true }) name?: string;

  @Part(() => FollowSettings, { optional: true, description: 'How it is to be followed' })
  settings?: FollowSettings;
}

/** Several points placed at once on one frame. */
export class NewTracksRequest extends Followed {
  @Frame() frame!: number;
  @Parts(() => PlaceRequest, { least: 1, most: 500 }) points!: PlaceRequest[];
}

export class SpanRequest {
  @Frame({ description: 'First frame, included' }) first!: number;
  @Frame({ description: 'Last frame, included' }) last!: number;
}

export class InterpolateRequest extends SpanRequest {
  @Choice(keyInterpolations) how!: (typeof keyInterpolations)[number];
}

export class SuggestRequest {
  @Frame() frame!: number;
  @Whole(1, 500, { description: 'How many places at most' }) count!: number;

  @Parts(() => SplineRecord, {
    ...{ most: 100, optional: true },
    description: 'Areas to look in; the whole picture if none',
  })
  within?: SplineRecord[];

  @Parts(() => SplineRecord, { most: 500, optional: true, description: 'Areas to keep out of' })
  without?: SplineRecord[];
}

/** What of a region is left out on a frame, as something is in its way. */
export interface LeftOutView {
  /** 0 to 1. */
  share: number;
  /** Four corners each, clip pixels: eight numbers. */
  quads: number[][];
}

/** How well a place can be followed. */
export interface PlaceScoreView {
  /** 0 to 1. */
  score: number;
  /** Expected error, clip pixels; null where it cannot be told. */
  error: number | null;
  /** The direction it can slide along, degrees clockwise from the x axis; null when it cannot. */
  slide: number | null;
  /** How alike the likest other place near it is, 0 to 1. */
  double: number;
  /** How surely it was followed into the frames about this one, 0 to 1; null where none was there to try. */
  tried: number | null;
  /** Whether it goes another way than the whole picture; null where that is not known. */
  ownWay: boolean | null;
  /** What a box here would not tell of itself, as a disc does not tell how it turns; null when nothing. */
  unseen: 'turn' | 'growth' | null;
}

export interface SuggestionView extends PlaceScoreView {
  x: number;
  y: number;
}

/** Tracks of one clip that something is done to, in one step of undo. */
export class TracksRequest {
  @Strings({ least: 1, most: 1000 }) trackIds!: string[];
}

export class TracksPatchRequest extends TracksRequest {
  @Part(() => TrackPatch) patch!: TrackPatch;
}

export class TracksSpanRequest extends TracksRequest {
  @Part(() => SpanRequest) span!: SpanRequest;
}

export class TracksInterpolateRequest extends TracksRequest {
  @Part(() => InterpolateRequest) fill!: InterpolateRequest;
}

export class TracksJoinRequest extends TracksRequest {
  @Words(0, 120, { description: 'The track that the others become a part of' }) into!: string;
}

export class TracksCarryRequest extends TracksRequest {
  @Words(0, 120, { description: 'The track whose motion is given' }) from!: string;
}

export class SmoothRequest extends SpanRequest {
  @Num(0.3, 500, { description: 'Standard deviation of the Gaussian, frames' }) sigma!: number;
}

export class TracksSmoothRequest extends TracksRequest {
  @Part(() => SmoothRequest) smooth!: SmoothRequest;
}

export class MoveKeyRequest {
  @Frame({ description: 'The frame it goes to' }) to!: number;
}

export const trackDirections = ['forwards', 'backwards', 'both', 'next', 'previous'] as const;

export class TrackRunRequest extends TracksRequest {
  @Choice(trackDirections, { description: '`next` and `previous` go one frame' })
  direction!: (typeof trackDirections)[number];

  @Frame({ description: 'Where to start; each track needs a sample there' }) from!: number;

  @Part(() => SpanRequest, {
    optional: true,
    description: 'Only these frames are followed anew, from the places on either side of them',
  })
  span?: SpanRequest;
}

/** Which tracks of a clip are written, and of which frames; all where nothing is said. */
export class TracksQuery {
  @Words(1, 100_000, { optional: true }) tracks?: string;
  @Type(() => Number) @Frame({ optional: true }) first?: number;
  @Type(() => Number) @Frame({ optional: true }) last?: number;
}

/** frame, x, y, confidence, rotation, scale, state, reason, stretch, shear, tiltX, tiltY */
export type SampleRow = [
  ...[frame: number, x: number, y: number, confidence: number, rotation: number, scale: number],
  ...[state: number, reason: number, stretch: number, shear: number, tiltX: number, tiltY: number],
];
