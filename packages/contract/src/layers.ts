import { ApiProperty } from '@nestjs/swagger';
import { IsInt, IsObject, IsUUID, Min } from 'class-validator';

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
  @ApiProperty({ type: 'object', additionalProperties: true, description: 'As docs/formats.md has it' })
  @IsObject()
  layer!: Record<string, unknown>;
}

export class LayerMoveRequest {
  @ApiProperty({ description: 'Place in the list, counted from the top' })
  @IsInt()
  @Min(0)
  to!: number;
}

export class LayerCopyRequest {
  @ApiProperty({ format: 'uuid', description: 'The clip that it is copied into, or its own' })
  @IsUUID('all')
  clipId!: string;
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
