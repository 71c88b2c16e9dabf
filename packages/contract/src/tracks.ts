import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Max,
  Min,
  ValidateNested,
} from 'class-validator';

const finite = { allowNaN: false, allowInfinity: false };

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

export class NewTrackRequest extends PlaceRequest {
  @ApiProperty({ description: 'The frame it is placed on' })
  @IsInt()
  @Min(0)
  frame!: number;

  @ApiPropertyOptional({ type: BoxSize })
  @IsOptional()
  @ValidateNested()
  @Type(() => BoxSize)
  template?: BoxSize;

  @ApiPropertyOptional({ type: BoxSize })
  @IsOptional()
  @ValidateNested()
  @Type(() => BoxSize)
  search?: BoxSize;
}

export class TrackPatch {
  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @Length(1, 80)
  name?: string;

  @ApiPropertyOptional({ description: 'Not drawn' })
  @IsOptional()
  @IsBoolean()
  hidden?: boolean;

  @ApiPropertyOptional({ description: 'Cannot be moved or tracked' })
  @IsOptional()
  @IsBoolean()
  locked?: boolean;

  @ApiPropertyOptional({ description: 'Has a say in the motion' })
  @IsOptional()
  @IsBoolean()
  used?: boolean;

  @ApiPropertyOptional({ type: BoxSize })
  @IsOptional()
  @ValidateNested()
  @Type(() => BoxSize)
  template?: BoxSize;

  @ApiPropertyOptional({ type: BoxSize })
  @IsOptional()
  @ValidateNested()
  @Type(() => BoxSize)
  search?: BoxSize;
}

export interface TrackView {
  id: string;
  clipId: string;
  name: string;
  kind: 'point';
  /** Place in the list, and choice of hue. */
  position: number;
  hidden: boolean;
  locked: boolean;
  used: boolean;
  template: { width: number; height: number };
  search: { width: number; height: number };
}

export const trackDirections = ['forwards', 'backwards', 'both', 'next', 'previous'] as const;

export class TrackRunRequest {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(1000)
  @IsString({ each: true })
  trackIds!: string[];

  @ApiProperty({ enum: trackDirections, description: '`next` and `previous` go one frame' })
  @IsIn(trackDirections)
  direction!: (typeof trackDirections)[number];

  @ApiProperty({ description: 'Where to start; each track needs a sample there' })
  @IsInt()
  @Min(0)
  from!: number;
}

/** frame, x, y, confidence, rotation, scale, state */
export type SampleRow = [number, number, number, number, number, number, number];
