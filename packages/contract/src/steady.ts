import { ApiProperty } from '@nestjs/swagger';
import { IsBoolean, IsIn, IsInt, IsNumber, Max, Min } from 'class-validator';
import { finite, Nested } from './fields.js';

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

  @ApiProperty()
  @IsInt()
  @Min(0)
  referenceFrame!: number;

  @Nested(() => FrameRangeView)
  range!: FrameRangeView;

  @Nested(() => FramingView)
  framing!: FramingView;
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
    'Strength',
    'Channels',
    'Reference frame',
    'Range',
    'Framing',
    'Hide bare edges',
  ])
  label!: string;
}
