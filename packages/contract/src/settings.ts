import { ApiProperty } from '@nestjs/swagger';
import { IsInt, Max, Min } from 'class-validator';

export interface SettingsView {
  /** How many cores work may take at once. */
  cores: number;
  mostCores: number;
  /** The folder below which pictures may be exported; null where the server was given none. */
  exportsFolder: string | null;
}

export class SettingsRequest {
  @ApiProperty() @IsInt() @Min(1) @Max(1024) cores!: number;
}
