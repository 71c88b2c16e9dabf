import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsString, Length, Matches } from 'class-validator';

/** An upload that has begun and not come to its end. */
export interface UnfinishedUpload {
  id: string;
  name: string;
  done: number;
  bytes: number;
}

/** Pictures that were uploaded one by one, to be shown as one clip. */
export class SequenceRequest {
  @ApiProperty({ example: 'crossing' })
  @IsString()
  @Length(1, 255)
  name!: string;

  @ApiProperty({ description: 'Frames a second', example: '24000/1001' })
  @IsString()
  @Matches(/^\d{1,6}(\/\d{1,6})?$/)
  rate!: string;

  @ApiProperty({ type: [String], description: 'Their uploads' })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(20_000)
  @Matches(/^[0-9a-f]{8,64}$/, { each: true })
  uploads!: string[];
}
