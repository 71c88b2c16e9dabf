import { create } from 'zustand';
import { toast } from 'sonner';
import { useDocument } from './document';
import { edit, go } from './editor';
import { useSelection } from './selection';
import { comparable, markOf, troubleList, troublesOf, type Trouble } from './troubles';

// The list that is worked through, worst first, over all tracks.

interface Troubles {
  /** The worst first. */
  list: readonly Trouble[];
  /** The one that is being looked at; by what it is, since the list changes under one's hands. */
  at: Trouble | null;
}

export const useTroubles = create<Troubles>(() => ({ list: [], at: null }));

/** Milliseconds: the list is made anew so long after a change, and no more of it at a time than so. */
const restBefore = 120;
const atATime = 6;

let waiting: ReturnType<typeof setTimeout> | undefined;

/** Makes the list anew, a few tracks at a time, so that nothing waits for it. */
function workThrough(): void {
  const { tracks, samples, result } = useDocument.getState();
  const common = comparable(tracks, result);
  const began = performance.now();
  for (const track of tracks) {
    const own = samples.get(track.id);
    if (own) troublesOf(track, own, common);
    if (performance.now() - began > atATime) {
      // What is done is kept: it goes on from there.
      waiting = setTimeout(workThrough);
      return;
    }
  }
  waiting = undefined;
  useTroubles.setState({ list: troubleList(tracks, samples, result) });
}

useDocument.subscribe((now, before) => {
  if (now.tracks === before.tracks && now.samples === before.samples && now.result === before.result) return;
  clearTimeout(waiting);
  waiting = setTimeout(workThrough, restBefore);
});

const isSame = (a: Trouble, b: Trouble): boolean =>
  a.trackId === b.trackId && a.kind === b.kind && a.first === b.first;

export const isAt = (trouble: Trouble, at: Trouble | null): boolean => at !== null && isSame(trouble, at);

function currentTroubles(): Trouble[] {
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
