import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsIn, IsUUID } from 'class-validator';
import { Optional } from './fields.js';
import type { JobView } from './jobs.js';

export const codecChoices = ['h264', 'h265', 'prores', 'prores4444', 'vp9', 'av1', 'ffv1', 'png'] as const;
export const containerChoices = ['mp4', 'mov', 'webm', 'mkv', 'png'] as const;
export const bitsChoices = [8, 10, 12, 16] as const;

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
}

/** What came of asking for several exports: those that wait or run, and a sentence for each clip that has nothing to export. */
export interface ExportsView {
  jobs: JobView[];
  refused: { clipId: string; message: string }[];
}

/** Several clips of a project, exported one after another by the same settings. */
export class SeveralExportsRequest extends ExportRequest {
  @ApiProperty({ type: [String], format: 'uuid' })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(500)
  @IsUUID('all', { each: true })
  clipIds!: string[];
}
