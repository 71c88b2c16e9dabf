import {
  guessMapping,
  readTable,
  writeTracksJson,
  parseFrameRate,
  type NamedTrack,
  type TableMapping,
  type TrackTable,
} from '@lurn/core';
import { toast } from 'sonner';
import { create } from 'zustand';
import { useDocument } from './document';
import { place } from './editor';
import { openDialog } from './workspace';

/** A text of tracks that is being taken in. */
export interface TracksIn {
  /** The file it came from; "the clipboard" where it was pasted. */
  from: string;
  /** Null for our own JSON, which needs no asking. */
  table: TrackTable | null;
  mapping: TableMapping | null;
  text: string;
}

export const useTracksIn = create<{ taken: TracksIn | null; failure: string | null }>(() => ({
  taken: null,
  failure: null,
}));

const isJson = (text: string): boolean => /^\s*[{[]/.test(text);

/** Whether a text that was pasted looks like tracks at all. */
export const looksLikeTracks = (text: string): boolean =>
  isJson(text) ? text.includes('lurn-tracks') : /^[^\n]*[,;\t][^\n]*[,;\t][^\n]*\n/.test(text);

/** Takes a text up: what is in it shows in the dialogue, which asks for what is not known. */
export function takeText(text: string, from: string): void {
  try {
    const table = isJson(text) ? null : readTable(text);
    useTracksIn.setState({
      taken: { from, table, mapping: table && guessMapping(table), text },
      failure: null,
    });
  } catch (error) {
    useTracksIn.setState({ taken: null, failure: `${from}: ${(error as Error).message}` });
  }
  openDialog('import');
}

export async function takeFile(file: File): Promise<void> {
  takeText(await file.text(), file.name);
}

export const changeMapping = (part: Partial<TableMapping>): void =>
  useTracksIn.setState(({ taken }) =>
    taken?.mapping ? { taken: { ...taken, mapping: { ...taken.mapping, ...part } } } : {},
  );

/** Adds tracks to the clip; they are chosen. */
export async function addTracks(tracks: readonly NamedTrack[]): Promise<void> {
  const { clip } = useDocument.getState();
  if (!clip) return;
  const file = writeTracksJson({ ...clip, frameRate: parseFrameRate(clip.frameRate) }, tracks);
  const change = await place((_, edits) => edits.importTracks(clip.id, file));
  if (!change) return;
  useTracksIn.setState({ taken: null, failure: null });
  openDialog(null);
  toast.success(tracks.length === 1 ? 'One track is taken in.' : `${tracks.length} tracks are taken in.`);
}
