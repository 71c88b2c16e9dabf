import { ApiProperty } from '@nestjs/swagger';
import { IsBoolean, IsDivisibleBy, IsIn, IsInt, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { finite, Nested, NestedList, OptionalNested } from './fields.js';

export class ChannelsView {
  @ApiProperty() @IsBoolean() x!: boolean;
  @ApiProperty() @IsBoolean() y!: boolean;
  @ApiProperty() @IsBoolean() rotation!: boolean;
  @ApiProperty() @IsBoolean() scale!: boolean;
}

export class FrameRangeView {
  @ApiProperty() @IsInt() @Min(0) first!: number;
  @ApiProperty() @IsInt() @Min(0) last!: number;
}

export class FramingView {
  @ApiProperty({ description: 'About the middle of the picture; 1 is full size' })
  @IsNumber(finite)
  @Min(0.1)
  @Max(20)
  zoom!: number;

  @ApiProperty({ description: 'Output pixels' })
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  offsetX!: number;

  @ApiProperty()
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  offsetY!: number;
}

/** How much of each channel is taken out, 0 to 1. */
export class StrengthView {
  @ApiProperty() @IsNumber(finite) @Min(0) @Max(1) x!: number;
  @ApiProperty() @IsNumber(finite) @Min(0) @Max(1) y!: number;
  @ApiProperty() @IsNumber(finite) @Min(0) @Max(1) rotation!: number;
  @ApiProperty() @IsNumber(finite) @Min(0) @Max(1) scale!: number;

  @ApiProperty({ description: 'Shear and perspective' })
  @IsNumber(finite)
  @Min(0)
  @Max(1)
  perspective!: number;
}

/** What a motion may do; `auto`: the simplest that explains a scene, and of points a similarity. */
export const motionModels = ['shift', 'rotation', 'similarity', 'perspective'] as const;
export const modelChoices = ['auto', ...motionModels] as const;

export const smoothings = ['even', 'composed'] as const;

/** `hold` holds still, `protect` leaves the move as it is, `even` goes through it at one pace. */
export const steadySpanKinds = ['hold', 'protect', 'even'] as const;

/** A stretch of frames that something else is done to than to the rest. */
export class SteadySpanView extends FrameRangeView {
  @ApiProperty({ enum: steadySpanKinds })
  @IsIn(steadySpanKinds)
  kind!: (typeof steadySpanKinds)[number];

  @ApiProperty({ description: 'Frames before and after, over which it is gone over into' })
  @IsInt()
  @Min(0)
  @Max(10000)
  ease!: number;
}

export const easingNames = ['step', 'linear', 'ease'] as const;

/** Where the steadied picture is put by hand on a frame. */
export class HandKeyView {
  @ApiProperty() @IsInt() @Min(0) frame!: number;

  @ApiProperty({ description: 'Pixels of the steadied picture before framing' })
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  x!: number;

  @ApiProperty()
  @IsNumber(finite)
  @Min(-100000)
  @Max(100000)
  y!: number;

  @ApiProperty({ description: 'Radians, clockwise, about the middle of the picture' })
  @IsNumber(finite)
  @Min(-100)
  @Max(100)
  rotation!: number;

  @ApiProperty({ description: 'About the middle of the picture' })
  @IsNumber(finite)
  @Min(0.05)
  @Max(20)
  zoom!: number;

  @ApiProperty({ enum: easingNames, description: 'How one goes on to the next key' })
  @IsIn(easingNames)
  easing!: (typeof easingNames)[number];
}

/** A rectangle of the steadied picture before framing, clip pixels. */
export class WanderAreaView {
  @ApiProperty() @IsNumber(finite) @Min(-100000) @Max(100000) left!: number;
  @ApiProperty() @IsNumber(finite) @Min(-100000) @Max(100000) top!: number;
  @ApiProperty() @IsNumber(finite) @Min(-100000) @Max(100000) right!: number;
  @ApiProperty() @IsNumber(finite) @Min(-100000) @Max(100000) bottom!: number;
}

export const rollingShutterModes = ['auto', 'off', 'share'] as const;

/** How the readout of a rolling shutter is taken out. */
export class RollingShutterView {
  @ApiProperty({
    enum: rollingShutterModes,
    description: 'auto: as the scene tells it; off; share: as given',
  })
  @IsIn(rollingShutterModes)
  mode!: (typeof rollingShutterModes)[number];

  @ApiProperty({ description: 'Of a frame, from its first row to its last; negative from the last up' })
  @IsNumber(finite)
  @Min(-1.2)
  @Max(1.2)
  share!: number;
}

export class VaryingView {
  @ApiProperty({ description: '0: the smallest constant zoom; 1: up to 8 % a second' })
  @IsNumber(finite)
  @Min(0)
  @Max(1)
  restlessness!: number;
}

/** An output of its own size, with square pixels. */
export class OutputSizeView {
  @ApiProperty({ description: 'Even' }) @IsInt() @IsDivisibleBy(2) @Min(16) @Max(16384) width!: number;
  @ApiProperty({ description: 'Even' }) @IsInt() @IsDivisibleBy(2) @Min(16) @Max(16384) height!: number;
}

export const edgeChoices = ['black', 'transparent', 'stretch', 'mirror', 'blur', 'fill'] as const;
export const unfilledChoices = ['mirror', 'stretch', 'blur', 'black'] as const;
export const resamplingChoices = ['nearest', 'bilinear', 'bicubic', 'lanczos'] as const;

/** All that is chosen about steadying a clip. */
export class SteadyView {
  @ApiProperty({ enum: ['hold', 'smooth'] })
  @IsIn(['hold', 'smooth'])
  mode!: 'hold' | 'smooth';

  @ApiProperty({ description: 'Standard deviation of the Gaussian' })
  @IsNumber(finite)
  @Min(0)
  @Max(60)
  smoothSeconds!: number;

  @ApiProperty({
    enum: smoothings,
    description:
      'even: a Gaussian; composed: the steadiest path that the zoom of the framing leaves room for, without a bare edge',
  })
  @IsIn(smoothings)
  kind!: (typeof smoothings)[number];

  @ApiProperty({ enum: modelChoices, description: 'What the motion may do' })
  @IsIn(modelChoices)
  model!: (typeof modelChoices)[number];

  @Nested(() => ChannelsView)
  channels!: ChannelsView;

  @Nested(() => StrengthView)
  strength!: StrengthView;

  @NestedList(SteadySpanView, { most: 500, description: 'Stretches that something else is done to' })
  spans!: SteadySpanView[];

  @NestedList(HandKeyView, { most: 5000, description: 'Where the steadied picture is put by hand, in order' })
  keys!: HandKeyView[];

  @OptionalNested(() => WanderAreaView)
  within?: WanderAreaView;

  @Nested(() => RollingShutterView)
  rollingShutter!: RollingShutterView;

  @ApiProperty()
  @IsInt()
  @Min(0)
  referenceFrame!: number;

  @Nested(() => FrameRangeView)
  range!: FrameRangeView;

  @Nested(() => FramingView)
  framing!: FramingView;

  @OptionalNested(() => VaryingView, { description: 'The zoom changes slowly, as far as bare edges ask for' })
  varying?: VaryingView;

  @OptionalNested(() => OutputSizeView, { description: 'The size of the output, where it is not the clip’s' })
  output?: OutputSizeView;

  @ApiProperty({ enum: edgeChoices, description: 'What bare edges show' })
  @IsIn(edgeChoices)
  edge!: (typeof edgeChoices)[number];

  @ApiProperty({ enum: unfilledChoices, description: 'What shows where no frame fills an edge' })
  @IsIn(unfilledChoices)
  unfilled!: (typeof unfilledChoices)[number];

  @ApiProperty({ enum: resamplingChoices })
  @IsIn(resamplingChoices)
  resampling!: (typeof resamplingChoices)[number];
}

export class SteadyRequest {
  @Nested(() => SteadyView)
  steady!: SteadyView;

  @ApiProperty({ description: 'What the change is called when it can be undone', example: 'Smooth' })
  @IsIn([
    'Mode',
    'Smoothing',
    'Kind',
    'Model',
    'Rolling shutter',
    'Wander area',
    'Stretches',
    'By hand',
    'Strength',
    'Channels',
    'Reference frame',
    'Range',
    'Framing',
    'Hide bare edges',
    'Varying zoom',
    'Output size',
    'Edges',
    'Resampling',
    'Kept settings',
  ])
  label!: string;
}

/** All that is chosen about steadying, kept by a name, to go back to and to compare with. */
export interface KeptSteadyView {
  id: string;
  clipId: string;
  name: string;
  steady: SteadyView;
}

export class KeepSteadyRequest {
  @ApiProperty({ example: 'Held, tight', minLength: 1, maxLength: 60 })
  @IsString()
  @Length(1, 60)
  name!: string;
}
