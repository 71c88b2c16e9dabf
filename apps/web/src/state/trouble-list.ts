import { create } from 'zustand';
import { toast } from 'sonner';
import { useDocument } from './document';
import { edit, go } from './editor';
import { useSelection } from './selection';
import { markOf, troubleList, type Trouble } from './troubles';

// The list that is worked through, worst first, over all tracks.

/** The trouble that is being looked at; by what it is, since the list changes under one's hands. */
export const useTroubles = create<{ at: Trouble | null }>(() => ({ at: null }));

const isSame = (a: Trouble, b: Trouble): boolean =>
  a.trackId === b.trackId && a.kind === b.kind && a.first === b.first;

export const isAt = (trouble: Trouble, at: Trouble | null): boolean => at !== null && isSame(trouble, at);

export function currentTroubles(): Trouble[] {
  const { tracks, samples, result } = useDocument.getState();
  return troubleList(tracks, samples, result);
}

/** Goes to a trouble: its track is selected, its worst frame shown. */
export function lookAt(trouble: Trouble): void {
  useTroubles.setState({ at: trouble });
  useSelection.setState({ selected: trouble.trackId, chosen: new Set([trouble.trackId]) });
  go(trouble.worst);
}

/** Goes down or up the list; from one that is mended already, to the worst that is left. */
export function stepTroubles(step: 1 | -1): void {
  const all = currentTroubles();
  if (all.length === 0) return void toast.info('No trouble is left: every track is sure of itself.');
  const { at } = useTroubles.getState();
  const index = at ? all.findIndex((one) => isSame(one, at)) : -1;
  lookAt(all[index < 0 ? 0 : (index + step + all.length) % all.length]);
}

/** Says of a trouble that it was looked at and is right as it is; it leaves the list, and comes back when its samples change. */
export async function waveThrough(trouble: Trouble): Promise<void> {
  const { tracks, samples } = useDocument.getState();
  const track = tracks.find(({ id }) => id === trouble.trackId);
  const own = samples.get(trouble.trackId);
  if (!track || !own) return;
  const all = currentTroubles();
  const next = all[all.findIndex((one) => isSame(one, trouble)) + 1] as Trouble | undefined;
  const { first, last } = trouble;
  // What no longer holds is cleared away with it.
  const kept = track.accepted.filter((span) => span.mark === markOf(own, span));
  const accepted = [...kept, { first, last, mark: markOf(own, trouble) }];
  const change = await edit((_, edits) => edits.changeTracks({ trackIds: [track.id], patch: { accepted } }));
  if (!change) return;
  if (next) lookAt(next);
  else useTroubles.setState({ at: null });
}
