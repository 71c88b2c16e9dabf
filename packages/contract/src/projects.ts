import { ApiProperty } from '@nestjs/swagger';
import { IsString, Length } from 'class-validator';
import type { ClipCard } from './clips.js';

export class NameRequest {
  @ApiProperty({ example: 'The Withy Ferry', minLength: 1, maxLength: 120 })
  @IsString()
  @Length(1, 120)
  name!: string;
}

export interface ProjectCard {
  id: string;
  name: string;
  clips: number;
  createdAt: string;
}

export interface ProjectView {
  id: string;
  name: string;
  clips: ClipCard[];
}
