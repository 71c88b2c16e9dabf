import { Whole } from '@lurn/model';

export interface SettingsView {
  /** How many cores work may take at once. */
  cores: number;
  mostCores: number;
  /** The folder below which pictures may be exported; null where the server was given none. */
  exportsFolder: string | null;
}

export class SettingsRequest {
  @Whole(1, 1024) cores!: number;
}
