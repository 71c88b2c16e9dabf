import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { IsBoolean, IsIn, IsInt, IsNumber, Max, Min, ValidateNested } from 'class-validator';

const finite = { allowNaN: false, allowInfinity: false };

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

  @ApiProperty({ type: ChannelsView })
  @ValidateNested()
  @Type(() => ChannelsView)
  channels!: ChannelsView;

  @ApiProperty()
  @IsInt()
  @Min(0)
  referenceFrame!: number;

  @ApiProperty({ type: FrameRangeView })
  @ValidateNested()
  @Type(() => FrameRangeView)
  range!: FrameRangeView;

  @ApiProperty({ type: FramingView })
  @ValidateNested()
  @Type(() => FramingView)
  framing!: FramingView;
}

export class SteadyRequest {
  @ApiProperty({ type: SteadyView })
  @ValidateNested()
  @Type(() => SteadyView)
  steady!: SteadyView;

  @ApiProperty({ description: 'What the change is called when it can be undone', example: 'Smooth' })
  @IsIn(['Mode', 'Smoothing', 'Channels', 'Reference frame', 'Range', 'Framing', 'Hide bare edges'])
  label!: string;
}
