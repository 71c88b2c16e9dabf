import { Whole, Words } from '@lurn/model';

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
  @Whole(0, 1000) folder!: number;
  @Words(1, 1000, { example: 'day 1/quay.mp4' }) path!: string;
}
