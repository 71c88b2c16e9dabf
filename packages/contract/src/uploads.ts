import { Strings, Words } from '@lurn/model';

/** An upload that has begun and not come to its end. */
export interface UnfinishedUpload {
  id: string;
  name: string;
  done: number;
  bytes: number;
}

/** Pictures that were uploaded one by one, to be shown as one clip. */
export class SequenceRequest {
  @Words(1, 255, { example: 'crossing' }) name!: string;

  @Words(1, 13, { pattern: /^\d{1,6}(\/\d{1,6})?$/, description: 'Frames a second', example: '24000/1001' })
  rate!: string;

  @Strings({ least: 1, most: 20_000 }, { pattern: /^[0-9a-f]{8,64}$/, description: 'Their uploads' })
  uploads!: string[];
}
