import { applyDecorators } from '@nestjs/common';
import { ApiProperty } from '@nestjs/swagger';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsString,
  IsUUID,
  Length,
} from 'class-validator';
import { Optional, OptionalNested } from './fields.js';
import type { JobView } from './jobs.js';

export const codecChoices = ['h264', 'h265', 'prores', 'prores4444', 'vp9', 'av1', 'ffv1', 'png'] as const;
export const containerChoices = ['mp4', 'mov', 'webm', 'mkv', 'png'] as const;
export const bitsChoices = [8, 10, 12, 16] as const;

export const pairLayouts = ['side', 'stack', 'wipe'] as const;

/** Before and after in one movie. */
export class ComparisonRequest {
  @ApiProperty({ enum: pairLayouts, description: 'Beside each other, above each other, or by a moving wipe' })
  @IsIn(pairLayouts)
  layout!: (typeof pairLayouts)[number];

  @ApiProperty({ description: 'Whether “Before” and “After” are written into it' })
  @IsBoolean()
  words!: boolean;
}

const onlyChoices = ['layers', 'matte'] as const;

/** What a movie is written as; what is left out is what is usual for the rest. */
export class ExportRequest {
  @Optional({ enum: codecChoices })
  @IsIn(codecChoices)
  codec?: (typeof codecChoices)[number];

  @Optional({ enum: containerChoices, description: 'png: pictures by themselves, in a zip' })
  @IsIn(containerChoices)
  container?: (typeof containerChoices)[number];

  @Optional({
    enum: bitsChoices,
    description: 'A level; what the clip has, as far as the codec can, when left out',
  })
  @IsIn(bitsChoices)
  bits?: (typeof bitsChoices)[number];

  @OptionalNested(() => ComparisonRequest, {
    description: 'Show the source together with what is made of it',
  })
  comparison?: ComparisonRequest;

  @Optional({
    enum: onlyChoices,
    description: 'The layers by themselves, with alpha; or how much of each pixel they cover, as a picture',
  })
  @IsIn(onlyChoices)
  only?: (typeof onlyChoices)[number];

  @Optional({
    format: 'uuid',
    description:
      'A clip of the project: this clip’s own export, treated elsewhere. The original motion is put back onto it',
  })
  @IsUUID('all')
  treated?: string;

  @Optional({
    description: 'Of pictures: a folder below the one that the server was given, instead of a zip',
    example: 'quay-held',
  })
  @IsString()
  @Length(1, 80)
  folder?: string;
}

/** What came of asking for several exports: those that wait or run, and a sentence for each clip that has nothing to export. */
export interface ExportsView {
  jobs: JobView[];
  refused: { clipId: string; message: string }[];
}

const SomeClips = (): PropertyDecorator =>
  applyDecorators(
    ApiProperty({ type: [String], format: 'uuid' }),
    IsArray(),
    ArrayMinSize(1),
    ArrayMaxSize(500),
    IsUUID('all', { each: true }),
  );

/** Several clips of a project, exported one after another by the same settings. */
export class SeveralExportsRequest extends ExportRequest {
  @SomeClips()
  clipIds!: string[];
}

/** Clips that are to be steadied as another is: its choices are theirs, and its motion is followed anew in each. */
export class SteadyLikeRequest {
  @SomeClips()
  clipIds!: string[];

  @OptionalNested(() => ExportRequest, { description: 'And write their movies, too' })
  export?: ExportRequest;
}

/** What a codec has come to on this machine so far. */
export interface ExportPace {
  /** Output pixels written a second. */
  pixelsPerSecond: number;
  /** Bits of the file to an output pixel. */
  bitsPerPixel: number;
}
