import { ApiProperty } from '@nestjs/swagger';
import { IsInt, IsString, Length, Max, Min } from 'class-validator';

/** A folder that the server was started with. */
export interface MediaFolder {
  index: number;
  path: string;
  name: string;
  /** False while its disk is away. */
  there: boolean;
}

export interface MediaEntry {
  name: string;
  kind: 'folder' | 'file';
  bytes: number;
}

/** A file within one of those folders. */
export class OutsideRequest {
  @ApiProperty() @IsInt() @Min(0) @Max(1000) folder!: number;

  @ApiProperty({ example: 'day 1/quay.mp4' })
  @IsString()
  @Length(1, 1000)
  path!: string;
}
