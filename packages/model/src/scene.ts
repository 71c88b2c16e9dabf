import {
  motionModels,
  type GroupSummary,
  type MotionModel,
  type SceneChoice,
  type ShotSummary,
} from '@lurn/core';
import { Choice, Flag, Num, Part, Parts, Share, Whole, Words } from './fields.js';
import { PlaceRecord, SplineRecord } from './spline.js';
import { FrameRangeRecord } from './steady.js';

/** Any length, pixels. */
const Length = (): PropertyDecorator => Num(0, 1e9);
/** Nothing has a depth beyond these, from the first group, at 0, to the one that slides most, at 1. */
const deepest = 20;

/** RMS distances of features from a motion, by model, pixels. */
export class ResidualsRecord implements Record<MotionModel, number> {
  @Length() shift!: number;
  @Length() rotation!: number;
  @Length() similarity!: number;
  @Length() perspective!: number;
}

/** Features of the whole picture that move alike. Lengths in pixels, made square. */
export class GroupRecord extends FrameRangeRecord implements GroupSummary {
  @Share({ description: 'How much of the picture it is, over the shot' }) share!: number;
  @Whole(0, 1e6) members!: number;
  @Whole(0, 1e6, { description: 'Features that are kept out of every solve' }) heldOut: number = 0;
  @Part(() => ResidualsRecord) residuals!: ResidualsRecord;

  @Choice(motionModels, { description: 'The simplest model that explains it' })
  proposed!: GroupSummary['proposed'];

  /** How far it slides against the first group, RMS. */
  @Length() slide!: number;

  @Num(-1e6, 1e6, {
    nullable: true,
    description:
      'Where the camera travels, from the first group, 0, to the one that slides most; null for what moves by itself',
  })
  depth: number | null = null;

  @Part(() => PlaceRecord) middle!: PlaceRecord;
}

/** How the sensor is read out, as a share of a frame, and its standard deviation. */
export class ReadoutRecord {
  @Num(-10, 10) share!: number;
  @Num(0, 1e9) error!: number;
}

/** A shot of a scene: its motion groups, the one proposed first before the others. */
export class ShotRecord extends FrameRangeRecord implements ShotSummary, SceneChoice {
  @Parts(() => GroupRecord, { most: 64 }) groups!: GroupRecord[];
  @Parts(() => FrameRangeRecord, { most: 100_000, description: 'Frames on which nothing was followed' })
  bridged!: FrameRangeRecord[];

  @Part(() => ReadoutRecord, { nullable: true, description: 'Null where the shot does not tell' })
  readout: ReadoutRecord | null = null;

  @Whole(0, 63, { description: 'Which group is held, counted from 0' }) group!: number;

  @Num(-deepest, deepest, { nullable: true, description: 'The depth that is held in its place, if any' })
  depth: number | null = null;
}

/** Areas of the picture. */
const Areas = (description: string): PropertyDecorator =>
  Parts(() => SplineRecord, { most: 100, description });

/** The whole picture's motion, found by itself; its motions and features lie in pages beside it. */
export class SceneRecord {
  @Words(0, 120) id!: string;
  @Words(0, 120, { optional: true }) clipId!: string;
  @Words(1, 80) name!: string;
  @Flag({ description: 'Whether it has a say in the motion that is taken out' }) used!: boolean;
  @Flag({ description: 'Whether its features are shown' }) hidden!: boolean;

  @Words(0, 40, { description: 'When it was found: its packed motions and features are others from then on' })
  foundAt!: string;

  @Areas('Features are looked for in these areas only') within: SplineRecord[] = [];
  @Areas('Features are not looked for in these areas') without: SplineRecord[] = [];
  @Parts(() => ShotRecord, { most: 10_000 }) shots!: ShotRecord[];
}

/** Whether every span that a scene tells of lies in a clip of so many frames. */
export function isWithinClip({ shots }: SceneRecord, frames: number): boolean {
  const isSpan = ({ first, last }: FrameRangeRecord): boolean => first <= last && last < frames;
  return shots.every((shot) => [shot, ...shot.bridged, ...shot.groups].every(isSpan));
}
