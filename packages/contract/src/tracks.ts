import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Length,
  Max,
  Min,
} from 'class-validator';
import { finite, Nested, Optional, OptionalNested, NestedList, OptionalNestedList } from './fields.js';

export class BoxSize {
  @ApiProperty({ description: 'Full width in clip pixels' })
  @IsInt()
  @Min(7)
  @Max(4001)
  width!: number;

  @ApiProperty({ description: 'Full height in clip pixels' })
  @IsInt()
  @Min(7)
  @Max(4001)
  height!: number;
}

/** How a track is followed: names as the core has them. */
export const trackShapes = ['shift', 'rotation', 'similarity', 'affine', 'perspective'] as const;
export const trackChannels = ['luma', 'red', 'green', 'blue', 'saturation'] as const;
export const trackFilters = ['none', 'soften', 'local-contrast'] as const;
export const trackFields = ['both', 'top', 'bottom'] as const;
export const belowThreshold = ['stop', 'mark', 'bridge'] as const;
export const keyInterpolations = ['linear', 'smooth'] as const;

/** From the key on this frame another feature is followed, so far from the wanted point, clip pixels. */
export interface OffsetView {
  frame: number;
  x: number;
  y: number;
}

/** What can be chosen of how a track is followed. */
export class FollowSettings {
  @Optional({ enum: trackShapes, description: 'What the box may do besides shifting' })
  @IsIn(trackShapes)
  shape?: (typeof trackShapes)[number];

  @Optional({ enum: trackChannels, description: 'What of the colour is looked at' })
  @IsIn(trackChannels)
  channel?: (typeof trackChannels)[number];

  @Optional({ enum: trackFilters })
  @IsIn(trackFilters)
  filter?: (typeof trackFilters)[number];

  @Optional({ enum: trackFields, description: 'Lines of interlaced material that are looked at' })
  @IsIn(trackFields)
  fields?: (typeof trackFields)[number];

  @Optional({ enum: belowThreshold, description: 'What happens below the threshold' })
  @IsIn(belowThreshold)
  below?: (typeof belowThreshold)[number];

  @Optional({ description: 'Confidence, 0 to 1' })
  @IsNumber(finite)
  @Min(0)
  @Max(1)
  threshold?: number;

  @Optional({ description: 'The most frames that are bridged' })
  @IsInt()
  @Min(1)
  @Max(10000)
  longestGap?: number;
}

/** A stretch that someone looked at and found right; `mark` tells its samples, so that it lapses when they change. */
export class AcceptedSpan {
  @ApiProperty() @IsInt() @Min(0) first!: number;
  @ApiProperty() @IsInt() @Min(0) last!: number;

  @ApiProperty()
  @IsInt()
  @Min(0)
  @Max(0xffffffff)
  mark!: number;
}

export class PlaceRequest {
  @ApiProperty({ description: 'Clip pixels, corner origin' })
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  x!: number;

  @ApiProperty()
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  y!: number;
}

export class KeyRequest extends PlaceRequest {
  @OptionalNested(() => PlaceRequest, {
    description: 'Where the box lies when another feature is followed from here on: pixels from the point',
  })
  aside?: PlaceRequest;
}

export class NewTrackRequest extends PlaceRequest {
  @ApiProperty({ description: 'The frame it is placed on' })
  @IsInt()
  @Min(0)
  frame!: number;

  @OptionalNested(() => BoxSize)
  template?: BoxSize;

  @OptionalNested(() => BoxSize)
  search?: BoxSize;

  @OptionalNested(() => FollowSettings, { description: 'How it is to be followed' })
  settings?: FollowSettings;
}

/** A knot of a closed spline, clip pixels, and how far its handles reach from it; 0 at a corner. */
export class KnotRequest extends PlaceRequest {
  @ApiProperty() @IsNumber(finite) inX!: number;
  @ApiProperty() @IsNumber(finite) inY!: number;
  @ApiProperty() @IsNumber(finite) outX!: number;
  @ApiProperty() @IsNumber(finite) outY!: number;
}

/** A closed curve of cubic Béziers from knot to knot. */
export class SplineRequest {
  @NestedList(KnotRequest, { least: 3, most: 500 })
  knots!: KnotRequest[];
}

/** Where a region is looked for from a frame on: outlines as they lie on the frame that it was drawn on. */
export class OutlineKeyView {
  @ApiProperty() @IsInt() @Min(0) frame!: number;

  @NestedList(SplineRequest, { least: 1, most: 20 })
  splines!: SplineRequest[];
}

/** A spline as it is from a frame on, and on the way to the next. */
export class SplineKeyView {
  @ApiProperty() @IsInt() @Min(0) frame!: number;

  @Nested(() => SplineRequest)
  spline!: SplineRequest;
}

/** What never counts: a spline as it lies on a frame, and the track that carries it; none where it stays. */
export class HoldOutView {
  @ApiProperty() @IsInt() @Min(0) frame!: number;

  @Nested(() => SplineRequest)
  spline!: SplineRequest;

  @Optional({ description: 'The track that it rides on; it stays where it is when left out' })
  @IsString()
  @Length(1, 80)
  trackId?: string;

  @OptionalNestedList(SplineKeyView, {
    most: 500,
    description:
      'What it looks like on other frames, as it would lie on its own; knots go from one to the next',
  })
  keys?: SplineKeyView[];
}

/** What can be changed of a region; its samples stay as they are. */
export class RegionPatch {
  @OptionalNestedList(OutlineKeyView, {
    least: 1,
    most: 500,
    description: 'Where to look, from each frame on',
  })
  outlines?: OutlineKeyView[];

  @OptionalNestedList(HoldOutView, { most: 50, description: 'What never counts' })
  holdOuts?: HoldOutView[];

  @OptionalNestedList(PlaceRequest, {
    least: 4,
    most: 4,
    description:
      'The quad on the frame that the region was drawn on: upper left and right, lower right and left',
  })
  quad?: PlaceRequest[];
}

/** Clip pixels, corner origin. */
export interface PlaceView {
  x: number;
  y: number;
}

/** A flat thing that is followed whole. All of it is in clip pixels of the frame that it was drawn on. */
export interface RegionView {
  frame: number;
  centre: PlaceView;
  outlines: OutlineKeyView[];
  holdOuts: HoldOutView[];
  quad: [PlaceView, PlaceView, PlaceView, PlaceView];
}

/** Where the four corners of a region's quad belong on a frame. */
export class CornersRequest {
  @NestedList(PlaceRequest, { least: 4, most: 4, description: 'Upper left and right, lower right and left' })
  corners!: PlaceRequest[];
}

export class TrackPatch extends FollowSettings {
  @Optional()
  @IsString()
  @Length(1, 80)
  name?: string;

  @Optional({ description: 'Not drawn' })
  @IsBoolean()
  hidden?: boolean;

  @Optional({ description: 'Cannot be moved or tracked' })
  @IsBoolean()
  locked?: boolean;

  @Optional({ description: 'Has a say in the motion' })
  @IsBoolean()
  used?: boolean;

  @OptionalNested(() => BoxSize)
  template?: BoxSize;

  @OptionalNested(() => BoxSize)
  search?: BoxSize;

  @OptionalNestedList(AcceptedSpan, {
    most: 2000,
    description: 'Stretches that were looked at and found right',
  })
  accepted?: AcceptedSpan[];

  @OptionalNested(() => RegionPatch, { description: 'Of a region: where it is looked for, and its quad' })
  region?: RegionPatch;
}

/** A flat area to follow whole, drawn on a frame. */
export class NewRegionRequest {
  @ApiProperty({ description: 'The frame it is drawn on' })
  @IsInt()
  @Min(0)
  frame!: number;

  @NestedList(SplineRequest, { least: 1, most: 20, description: 'Where to look, drawn loosely' })
  splines!: SplineRequest[];

  @OptionalNestedList(PlaceRequest, {
    least: 4,
    most: 4,
    description: 'Its quad; the box about it when left out',
  })
  quad?: PlaceRequest[];

  @Optional()
  @IsString()
  @Length(1, 80)
  name?: string;

  @OptionalNested(() => FollowSettings, { description: 'How it is to be followed' })
  settings?: FollowSettings;
}

export interface TrackView {
  id: string;
  clipId: string;
  name: string;
  kind: 'point' | 'region';
  /** Place in the list, and choice of hue. */
  position: number;
  hidden: boolean;
  locked: boolean;
  used: boolean;
  template: { width: number; height: number };
  search: { width: number; height: number };
  shape: (typeof trackShapes)[number];
  channel: (typeof trackChannels)[number];
  filter: (typeof trackFilters)[number];
  fields: (typeof trackFields)[number];
  below: (typeof belowThreshold)[number];
  threshold: number;
  longestGap: number;
  offsets: OffsetView[];
  accepted: AcceptedSpan[];
  /** Where a region lies; null for a point. */
  region: RegionView | null;
}

/** Several points placed at once on one frame. */
export class NewTracksRequest {
  @ApiProperty()
  @IsInt()
  @Min(0)
  frame!: number;

  @NestedList(PlaceRequest, { least: 1, most: 500 })
  points!: PlaceRequest[];

  @OptionalNested(() => BoxSize)
  template?: BoxSize;

  @OptionalNested(() => BoxSize)
  search?: BoxSize;

  @OptionalNested(() => FollowSettings, { description: 'How they are to be followed' })
  settings?: FollowSettings;
}

export class SpanRequest {
  @ApiProperty({ description: 'First frame, included' })
  @IsInt()
  @Min(0)
  first!: number;

  @ApiProperty({ description: 'Last frame, included' })
  @IsInt()
  @Min(0)
  last!: number;
}

export class InterpolateRequest extends SpanRequest {
  @ApiProperty({ enum: keyInterpolations })
  @IsIn(keyInterpolations)
  how!: (typeof keyInterpolations)[number];
}

export class SuggestRequest {
  @ApiProperty()
  @IsInt()
  @Min(0)
  frame!: number;

  @ApiProperty({ description: 'How many places at most' })
  @IsInt()
  @Min(1)
  @Max(500)
  count!: number;

  @OptionalNestedList(SplineRequest, {
    most: 100,
    description: 'Areas to look in; the whole picture if none',
  })
  within?: SplineRequest[];

  @OptionalNestedList(SplineRequest, { most: 500, description: 'Areas to keep out of' })
  without?: SplineRequest[];
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
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(1000)
  @IsString({ each: true })
  trackIds!: string[];
}

export class TracksPatchRequest extends TracksRequest {
  @Nested(() => TrackPatch)
  patch!: TrackPatch;
}

export class TracksSpanRequest extends TracksRequest {
  @Nested(() => SpanRequest)
  span!: SpanRequest;
}

export class TracksInterpolateRequest extends TracksRequest {
  @Nested(() => InterpolateRequest)
  fill!: InterpolateRequest;
}

export class TracksJoinRequest extends TracksRequest {
  @ApiProperty({ description: 'The track that the others become a part of' })
  @IsString()
  into!: string;
}

export class TracksCarryRequest extends TracksRequest {
  @ApiProperty({ description: 'The track whose motion is given' })
  @IsString()
  from!: string;
}

export class SmoothRequest extends SpanRequest {
  @ApiProperty({ description: 'Standard deviation of the Gaussian, frames' })
  @IsNumber(finite)
  @Min(0.3)
  @Max(500)
  sigma!: number;
}

export class TracksSmoothRequest extends TracksRequest {
  @Nested(() => SmoothRequest)
  smooth!: SmoothRequest;
}

export class MoveKeyRequest {
  @ApiProperty({ description: 'The frame it goes to' })
  @IsInt()
  @Min(0)
  to!: number;
}

export const trackDirections = ['forwards', 'backwards', 'both', 'next', 'previous'] as const;

export class TrackRunRequest extends TracksRequest {
  @ApiProperty({ enum: trackDirections, description: '`next` and `previous` go one frame' })
  @IsIn(trackDirections)
  direction!: (typeof trackDirections)[number];

  @ApiProperty({ description: 'Where to start; each track needs a sample there' })
  @IsInt()
  @Min(0)
  from!: number;

  @OptionalNested(() => SpanRequest, {
    description: 'Only these frames are followed anew, from the places on either side of them',
  })
  span?: SpanRequest;
}

/** Which tracks of a clip are written, and of which frames; all where nothing is said. */
export class TracksQuery {
  @Optional()
  @IsString()
  @Length(1, 100_000)
  tracks?: string;

  @Optional()
  @Type(() => Number)
  @IsInt()
  @Min(0)
  first?: number;

  @Optional()
  @Type(() => Number)
  @IsInt()
  @Min(0)
  last?: number;
}

/** frame, x, y, confidence, rotation, scale, state, reason, stretch, shear, tiltX, tiltY */
export type SampleRow = [
  ...[frame: number, x: number, y: number, confidence: number, rotation: number, scale: number],
  ...[state: number, reason: number, stretch: number, shear: number, tiltX: number, tiltY: number],
];
