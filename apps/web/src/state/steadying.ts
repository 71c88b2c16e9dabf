import type { SteadyView } from '@lurn/contract';
import { toast } from 'sonner';
import { api } from '../api/client';
import { useDocument } from './document';
import { edit, solve, solved } from './editor';
import { useExporting } from './exporting';
import { flush, touch } from './drafts';
import { useSync } from './sync';

const { getState: get, setState: set } = useDocument;

/** Changes the steadying: seen at once, stored when the hand rests; one rest, one step of undo. */
export function changeSteady(part: Partial<SteadyView>, label: string): void {
  const { steady, clip } = get();
  if (!steady || !clip) return;
  const next = { ...steady, ...part };
  if (JSON.stringify(next) === JSON.stringify(steady)) return;
  set({ steady: next });
  solve();
  void touch({
    ...{ kind: 'steady', id: clip.id, part, label },
    send: ({ id }, edits) => edits.setSteady(id, { steady: next, label }),
  });
}

/** Keeps what is chosen by a name. */
export async function keepSteady(name: string): Promise<void> {
  await flush();
  await edit((clip, edits) => edits.keepSteady(clip.id, name));
}

export const dropSteady = (id: string): Promise<unknown> =>
  edit((clip, edits) => edits.dropSteady(clip.id, id));

export const undo = (): Promise<void> => replay('undo');
export const redo = (): Promise<void> => replay('redo');

/** Whether there is anything to go back to shows when its turn comes: an edit may still be on its way. */
async function replay(way: 'undo' | 'redo'): Promise<void> {
  // What the hand has not rested from is the last edit.
  void flush();
  if (!get().history[way] && useSync.getState().saving === 0) return;
  await edit(async (clip, edits) => (get().history[way] ? edits[way](clip.id) : undefined));
}

export async function startExport(): Promise<void> {
  await flush();
  await edit(async (clip) => {
    await api.export(clip.id, useExporting.getState().request);
    return undefined;
  });
}

/** Room that the even path, which is shifted in its zoom, need not have on either side. */
const roomier = 1.0001;

/** The smallest zoom that hides every bare edge, as solved. */
export async function hideBareEdges(): Promise<void> {
  // A slider may have moved a moment ago.
  await solved();
  const { result, steady } = get();
  if (!result) return;
  if (!result.fit) {
    toast.error(
      'No zoom hides every bare edge: the picture moves out of its own frame. Shorten the range, or smooth instead of holding.',
    );
    return;
  }
  const { framing } = result.fit;
  // A composed path is made for its zoom, and lies in the middle of it.
  const isComposed = steady?.mode === 'smooth' && steady.kind === 'composed';
  changeSteady(
    { framing: isComposed ? { zoom: framing.zoom * roomier, offsetX: 0, offsetY: 0 } : framing },
    'Hide bare edges',
  );
}
