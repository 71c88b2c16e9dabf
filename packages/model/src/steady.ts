import {
  easings,
  edgeKinds,
  resamplingNames,
  rollingShutterModes,
  smoothKinds,
  spanKinds,
  unfilledKinds,
  type Channels,
  type EdgeKind,
  type Framing,
  type HandKey,
  type Resampling,
  type RollingShutter,
  type SteadySettings,
  type SteadySpan,
  type Strength,
  type UnfilledKind,
  type WanderArea,
} from '@lurn/core';
import { Choice, Flag, Frame, Num, Part, Parts, Pixels, Share, Whole, Words } from './fields.js';
import { modelChoices } from './layer/carrier.js';

export const steadyModes = ['hold', 'smooth'] as const;
export const resamplings = Object.keys(resamplingNames) as Resampling[];

export class ChannelsRecord implements Channels {
  @Flag() x!: boolean;
  @Flag() y!: boolean;
  @Flag() rotation!: boolean;
  @Flag() scale!: boolean;
}

export class FrameRangeRecord {
  @Frame() first!: number;
  @Frame() last!: number;
}

export class FramingRecord implements Framing {
  @Num(0.1, 20, { description: 'About the middle of the picture; 1 is full size' }) zoom!: number;
  @Pixels({ description: 'Output pixels' }) offsetX!: number;
  @Pixels() offsetY!: number;
}

/** How much of each channel is taken out, 0 to 1. */
export class StrengthRecord implements Strength {
  @Share() x!: number;
  @Share() y!: number;
  @Share() rotation!: number;
  @Share() scale!: number;
  @Share({ description: 'Shear and perspective' }) perspective!: number;
}

/** A stretch of frames that something else is done to than to the rest. */
export class SteadySpanRecord extends FrameRangeRecord implements SteadySpan {
  @Choice(spanKinds, {
    description: 'hold holds still, protect leaves the move as it is, even goes through it at one pace',
  })
  kind!: SteadySpan['kind'];

  @Whole(0, 10_000, { description: 'Frames before and after, over which it is gone over into' })
  ease!: number;
}

/** Where the steadied picture is put by hand on a frame. */
export class HandKeyRecord implements HandKey {
  @Frame() frame!: number;
  @Pixels({ description: 'Pixels of the steadied picture before framing' }) x!: number;
  @Pixels() y!: number;
  @Num(-100, 100, { description: 'Radians, clockwise, about the middle of the picture' }) rotation!: number;
  @Num(0.05, 20, { description: 'About the middle of the picture' }) zoom!: number;
  @Choice(easings, { description: 'How one goes on to the next key' }) easing!: HandKey['easing'];
}

/** A rectangle of the steadied picture before framing, clip pixels. */
export class WanderAreaRecord implements WanderArea {
  @Pixels() left!: number;
  @Pixels() top!: number;
  @Pixels() right!: number;
  @Pixels() bottom!: number;
}

/** How the readout of a rolling shutter is taken out. */
export class RollingShutterRecord implements RollingShutter {
  @Choice(rollingShutterModes, { description: 'auto: as the scene tells it; off; share: as given' })
  mode!: RollingShutter['mode'];

  @Num(-1.2, 1.2, { description: 'Of a frame, from its first row to its last; negative from the last up' })
  share!: number;
}

export class VaryingRecord {
  @Share({ description: '0: the smallest constant zoom; 1: up to 8 % a second' }) restlessness!: number;
}

/** An output of its own size, with square pixels. */
export class OutputSizeRecord {
  @Whole(16, 16384, { multipleOf: 2, description: 'Even' }) width!: number;
  @Whole(16, 16384, { multipleOf: 2, description: 'Even' }) height!: number;
}

/** All that is chosen about steadying a clip. */
export class SteadyRecord implements SteadySettings {
  @Choice(steadyModes) mode!: SteadySettings['mode'];
  @Num(0, 60, { description: 'Standard deviation of the Gaussian' }) smoothSeconds!: number;

  @Choice(smoothKinds, {
    description:
      'even: a Gaussian; composed: the steadiest path that the zoom of the framing leaves room for, without a bare edge',
  })
  kind!: SteadySettings['kind'];

  @Choice(modelChoices, { description: 'What the motion may do' }) model!: SteadySettings['model'];
  @Part(() => ChannelsRecord) channels!: ChannelsRecord;
  @Part(() => StrengthRecord) strength!: StrengthRecord;

  @Parts(() => SteadySpanRecord, { most: 500, description: 'Stretches that something else is done to' })
  spans!: SteadySpanRecord[];

  @Parts(() => HandKeyRecord, {
    ...{ most: 5000, description: 'Where the steadied picture is put by hand, in order' },
  })
  keys!: HandKeyRecord[];

  @Part(() => WanderAreaRecord, { optional: true }) within?: WanderAreaRecord;
  @Part(() => RollingShutterRecord) rollingShutter!: RollingShutterRecord;
  @Frame() referenceFrame!: number;
  @Part(() => FrameRangeRecord) range!: FrameRangeRecord;
  @Part(() => FramingRecord) framing!: FramingRecord;

  @Part(() => VaryingRecord, {
    optional: true,
    description: 'The zoom changes slowly, as far as bare edges ask for',
  })
  varying?: VaryingRecord;

  @Part(() => OutputSizeRecord, {
    optional: true,
    description: 'The size of the output, where it is not the clip’s',
  })
  output?: OutputSizeRecord;

  @Choice(edgeKinds, { description: 'What bare edges show' }) edge!: EdgeKind;
  @Choice(unfilledKinds, { description: 'What shows where no frame fills an edge' }) unfilled!: UnfilledKind;
  @Choice(resamplings) resampling!: Resampling;
}

/** What older versions, which had one way of smoothing and one model, nothing done by hand and every frame read at once, did not know. */
const evenAndWhole = {
  kind: 'even',
  model: 'auto',
  spans: [] as SteadySpanRecord[],
  keys: [] as HandKeyRecord[],
  rollingShutter: { mode: 'auto', share: 0 },
  edge: 'black',
  unfilled: 'mirror',
  resampling: 'bicubic',
  strength: { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 },
} satisfies Partial<SteadyRecord>;

/** What is chosen about steadying as it was kept, by this or an older version. */
export const steadyAsToday = (kept: object): SteadyRecord => ({ ...evenAndWhole, ...kept }) as SteadyRecord;

/** What is chosen about steadying a clip of so many frames before anybody has chosen anything. */
export const freshSteady = (frames: number): SteadyRecord => ({
  mode: 'hold',
  smoothSeconds: 1,
  ...evenAndWhole,
  channels: { x: true, y: true, rotation: true, scale: true },
  referenceFrame: 0,
  range: { first: 0, last: Math.max(0, frames - 1) },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
});

/** Why what is chosen does not fit a clip of so many frames; null where it does. */
export function steadyFault({ within, range, referenceFrame }: SteadyRecord, frames: number): string | null {
  if (within && (within.left >= within.right || within.top >= within.bottom))
    return 'The area to wander in has no inside.';
  if (range.first > range.last || range.last >= frames || referenceFrame >= frames)
    return `The clip has ${frames} frames.`;
  return null;
}

/** Settings that are kept by a name. */
export class KeptSteadyRecord {
  @Words(0, 120) id!: string;
  @Words(0, 120, { optional: true }) clipId!: string;
  @Words(1, 60, { example: 'Held, tight' }) name!: string;
  @Part(() => SteadyRecord) steady!: SteadyRecord;
}
