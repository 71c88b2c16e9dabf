import { toast } from 'sonner';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { create } from 'zustand';
import { useDocument } from './document';
import { useSelection } from './selection';

/** Which tracks, and of which frames, are handed on. */
export const useTracksOut = create<{ chosenOnly: boolean; rangeOnly: boolean }>(() => ({
  chosenOnly: false,
  rangeOnly: false,
}));

/** Where the tracks are to be had that are to be handed on. */
export function tracksAddress(format: 'csv' | 'json'): string {
  const { clip, steady, tracks } = useDocument.getState();
  const { chosen } = useSelection.getState();
  const { chosenOnly, rangeOnly } = useTracksOut.getState();
  const query = new URLSearchParams();
  if (chosenOnly)
    query.set(
      'tracks',
      tracks
        .filter(({ id }) => chosen.has(id))
        .map(({ id }) => id)
        .join(','),
    );
  if (rangeOnly && steady) {
    query.set('first', `${steady.range.first}`);
    query.set('last', `${steady.range.last}`);
  }
  const text = query.toString();
  return `/api/clips/${clip?.id ?? ''}/tracks.${format}${text ? `?${text}` : ''}`;
}

/** Has the browser save what is at an address. */
export function saveFile(address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = '';
  link.click();
}

/** Copies tracks as comma-separated values, to be pasted into a spreadsheet or another clip. */
export const copyTracks = (): Promise<void> =>
  attempt(async () => {
    await navigator.clipboard.writeText(await api.tracksText(tracksAddress('csv')));
    toast.success('The tracks are on the clipboard.');
  });
