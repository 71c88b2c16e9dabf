import { Id, LayerRecord, Part, Whole } from '@lurn/model';

/** Something that is drawn once, on a frame, and carried along: what it shows, where, and by what is in docs/formats.md. */
export interface LayerView {
  id: string;
  clipId: string;
  /** Place in the list, the top one first. */
  position: number;
  locked: boolean;
  /** Shown alone, with the others that are. */
  solo: boolean;
  name: string;
}

/** A layer whole, as project files have it. */
export class LayerRequest {
  @Part(() => LayerRecord) layer!: LayerRecord;
}

export class LayerMoveRequest {
  @Whole(0, 1_000_000, { description: 'Place in the list, counted from the top' }) to!: number;
}

export class LayerCopyRequest {
  @Id({ description: 'The clip that it is copied into, or its own' }) clipId!: string;
}

/** A picture that layers may show. */
export interface AssetView {
  id: string;
  name: string;
  kind: 'picture' | 'font';
  /** Of a picture. */
  width: number;
  height: number;
}
