import { FormatError, readTrackTable, type LineError, type NamedTrack } from '@lurn/core';
import type { ClipView } from '@lurn/contract';
import { readTracksJson } from '@lurn/model';
import type { TracksIn } from './tracks-in';

export interface ReadTracks {
  tracks: NamedTrack[];
  errors: LineError[];
  /** Why nothing can be read of it yet. */
  failure: string | null;
}

/** What is in a text, as far as it is understood. */
export function readTaken({ table, mapping, text }: TracksIn, clip: ClipView): ReadTracks {
  try {
    if (table && mapping) return { ...readTrackTable(table, mapping, clip), failure: null };
    return { tracks: readTracksJson(text, clip), errors: [], failure: null };
  } catch (error) {
    if (error instanceof FormatError) return { tracks: [], errors: [], failure: error.message };
    throw error;
  }
}
