import { ApiProperty } from '@nestjs/swagger';
import { IsBoolean, IsInt, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { finite, Optional, OptionalNested, OptionalNestedList } from './fields.js';
import { motionModels } from './steady.js';
import { SplineRequest } from './tracks.js';

type MotionModel = (typeof motionModels)[number];

export interface SpanView {
  first: number;
  last: number;
}

/** Features of the whole picture that move alike. Lengths in pixels, made square. */
export interface GroupView extends SpanView {
  /** How much of the picture it is, over the shot, 0 to 1. */
  share: number;
  members: number;
  /** Features that are kept out of every solve. */
  heldOut: number;
  /** RMS distance of its features from its motion, by model. */
  residuals: Record<MotionModel, number>;
  /** The simplest model that explains it. */
  proposed: MotionModel;
  /** How far it slides against the first group, RMS. */
  slide: number;
  /** Where the camera travels, from the first group, 0, to the one that slides most; null for what moves by itself. */
  depth: number | null;
  middle: { x: number; y: number };
}

/** A shot of a scene: its motion groups, the one proposed first before the others. */
export interface ShotView extends SpanView {
  groups: GroupView[];
  /** Frames on which nothing was followed. */
  bridged: SpanView[];
  /** The sensor's readout, as a share of a frame, and its standard deviation; null where the shot does not tell. */
  readout: { share: number; error: number } | null;
  /** Which group is held, counted from 0, and the depth that is held in its place, if any. */
  group: number;
  depth: number | null;
}

/** The whole picture's motion, found by itself. */
export interface SceneView {
  id: string;
  clipId: string;
  name: string;
  /** Whether it has a say in the motion that is taken out. */
  used: boolean;
  /** Whether its features are shown. */
  hidden: boolean;
  /** When it was found: its packed motions and features are others from then on. */
  foundAt: string;
  /** Where it looked. */
  within: SplineRequest[];
  without: SplineRequest[];
  shots: ShotView[];
}

/** Where the whole picture's motion is looked for. */
export class SceneRequest {
  @OptionalNestedList(SplineRequest, {
    most: 100,
    description: 'Features are looked for in these areas only',
  })
  within?: SplineRequest[];

  @OptionalNestedList(SplineRequest, { most: 100, description: 'Features are not looked for in these areas' })
  without?: SplineRequest[];
}

/** What is held of a shot. */
export class HoldRequest {
  @ApiProperty({ description: 'The shot, counted from 0' })
  @IsInt()
  @Min(0)
  shot!: number;

  @ApiProperty({ description: 'The group, counted from 0' })
  @IsInt()
  @Min(0)
  @Max(63)
  group!: number;

  @Optional({ description: 'Where the camera travels: any depth, in place of a group' })
  @IsNumber(finite)
  @Min(-20)
  @Max(20)
  depth?: number;
}

/** A change to what is chosen of a scene. */
export class ScenePatch {
  @Optional()
  @IsString()
  @Length(1, 80)
  name?: string;

  @Optional()
  @IsBoolean()
  used?: boolean;

  @Optional()
  @IsBoolean()
  hidden?: boolean;

  @OptionalNested(() => HoldRequest)
  hold?: HoldRequest;
}
