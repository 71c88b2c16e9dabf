import { Words } from '@lurn/model';
import type { ClipCard } from './clips.js';

export class NameRequest {
  @Words(1, 120, { example: 'The Withy Ferry' }) name!: string;
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
