import type { SteadyRequest, SteadyView } from '@lurn/contract';
import { toast } from 'sonner';
import { api } from '../api/client';
import { useDocument } from './document';
import { edit, solve, solved } from './editor';
import { useExporting } from './exporting';
import { useSync } from './sync';

const { getState: get, setState: set } = useDocument;

/** A change that the hand has not rested from yet. */
let unsaved: SteadyRequest | null = null;
let saveTimer: ReturnType<typeof setTimeout> | undefined;
const restBeforeSaving = 350;

/** Changes the steadying: seen at once, stored when the hand rests; one rest, one step of undo. */
export function changeSteady(part: Partial<SteadyView>, label: string): void {
  const { steady } = get();
  if (!steady) return;
  const next = { ...steady, ...part };
  if (JSON.stringify(next) === JSON.stringify(steady)) return;
  if (unsaved && unsaved.label !== label) void saveSteady();
  set({ steady: next });
  useSync.setState({ unsaved: true });
  solve();
  unsaved = { steady: next, label };
  clearTimeout(saveTimer);
  saveTimer = setTimeout(() => void saveSteady(), restBeforeSaving);
}

export async function saveSteady(): Promise<void> {
  clearTimeout(saveTimer);
  const request = unsaved;
  unsaved = null;
  if (!request) return;
  const sent = edit((clip, edits) => edits.setSteady(clip.id, request));
  useSync.setState({ unsaved: false });
  await sent;
}

/** Keeps what is chosen by a name. */
export async function keepSteady(name: string): Promise<void> {
  await saveSteady();
  await edit((clip, edits) => edits.keepSteady(clip.id, name));
}

export const dropSteady = (id: string): Promise<unknown> =>
  edit((clip, edits) => edits.dropSteady(clip.id, id));

export const undo = (): Promise<void> => replay('undo');
export const redo = (): Promise<void> => replay('redo');

/** Whether there is anything to go back to shows when its turn comes: an edit may still be on its way. */
async function replay(way: 'undo' | 'redo'): Promise<void> {
  await saveSteady();
  if (!get().history[way] && useSync.getState().saving === 0) return;
  await edit(async (clip, edits) => (get().history[way] ? edits[way](clip.id) : undefined));
}

export async function startExport(): Promise<void> {
  await saveSteady();
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
