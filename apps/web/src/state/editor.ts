import type {
  ClipChange,
  ClipView,
  HistoryView,
  JobView,
  PageView,
  ProjectEvent,
  SteadyRequest,
  SteadyView,
  TrackView,
} from '@lurn/contract';
import { Samples, SampleState, type Reason, type SampleState as State, type SteadyResult } from '@lurn/core';
import { toast } from 'sonner';
import { create } from 'zustand';
import { attempt } from '../api/attempt';
import { api, ApiError, edits, type Edits } from '../api/client';
import { Solver } from '../solving/solver';
import { wholePicture, type Look, type StageView } from '../stage/panes';
import { allOf, alone, among, type Choice } from './choice';
import { timesOf } from './clip-times';
import { InOrder } from './in-order';
import { usePlayhead } from './playhead';

/** `aside` puts the box on another feature; `within` and `without` draw areas for suggestions. */
export type Tool = 'move' | 'place' | 'aside' | 'within' | 'without';

/** A rectangle of the picture to look in or to keep out of, clip pixels. */
export interface Area {
  kind: 'within' | 'without';
  left: number;
  top: number;
  right: number;
  bottom: number;
}

export interface Conflict {
  message: string;
  /** True to have one's own edit done all the same. */
  choose: (own: boolean) => void;
}

interface EditorState extends Choice {
  clip: ClipView | null;
  tracks: TrackView[];
  samples: ReadonlyMap<string, Samples>;
  /** Counts the changes of each track's samples, which are altered in place. */
  versions: ReadonlyMap<string, number>;
  steady: SteadyView | null;
  history: HistoryView;
  jobs: JobView[];
  result: SteadyResult | null;
  tool: Tool;
  /** Areas drawn for suggestions. */
  areas: Area[];
  /** The source is shown as the selected track sees it. */
  asSeen: boolean;
  view: StageView;
  look: Look;
  wipe: number;
  connected: boolean;
  /** Counts edits, as the server does; what is newer has not been seen. */
  revision: number;
  /** An edit that would write over another window's; it waits for a choice. */
  conflict: Conflict | null;
  /** Edits on their way to the server. */
  saving: number;
  /** Why an edit waits, other than for the connection. */
  hindrance: string | null;
  /** A slider was moved and its place is not sent yet. */
  unsaved: boolean;
}

export const useEditor = create<EditorState>(() => ({
  ...{
    clip: null,
    tracks: [],
    samples: new Map(),
    versions: new Map(),
    steady: null,
    jobs: [],
    ...alone(null),
    result: null,
  },
  ...{
    history: { undo: null, redo: null },
    tool: 'move',
    areas: [],
    asSeen: false,
    view: 'twin',
    look: wholePicture,
    wipe: 0.5,
    connected: true,
    revision: 0,
    conflict: null,
    saving: 0,
    unsaved: false,
    hindrance: null,
  },
}));

const { getState: get, setState: set } = useEditor;

const solver = new Solver((result) => set({ result }));

/** Solves anew with what the store holds now; in no hurry where more is to come. */
function solve({ hurry } = { hurry: true }): void {
  const { clip, steady, tracks, samples } = get();
  if (!clip || !steady) return;
  const order = {
    tracks: tracks
      .filter((t) => t.used)
      .map((t) => samples.get(t.id))
      .filter((s) => s !== undefined)
      .map(({ x, y, state }) => ({ x, y, state })),
    clip: {
      width: clip.width,
      height: clip.height,
      times: timesOf(clip),
      pixelAspect: clip.pixelAspect,
    },
    settings: steady,
  };
  solver.solve(order, { hurry });
}

const bytesOf = (text: string): Uint8Array => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

function unpack(into: Map<string, Samples>, pages: readonly PageView[], frames: number): void {
  for (const { trackId, page, bytes } of pages) {
    const samples = into.get(trackId) ?? new Samples(frames);
    into.set(trackId, samples);
    samples.unpackPage(page, bytes === null ? null : bytesOf(bytes));
  }
}

/** Shows a clip as the server has it. */
export function showClip(clip: ClipView): void {
  const before = get();
  const samples = new Map(clip.tracks.map((t) => [t.id, new Samples(clip.frames)]));
  unpack(samples, clip.pages, clip.frames);
  const same = before.clip?.id === clip.id;
  const ids = clip.tracks.map((t) => t.id);
  set({
    ...{
      clip,
      samples,
      ...(same ? among(ids, before) : alone(ids[0] ?? null)),
      tracks: clip.tracks,
      steady: clip.steady,
      history: clip.history,
      revision: clip.revision,
      jobs: clip.jobs,
    },
    versions: altered(samples.keys()),
    ...(same ? {} : { result: null, look: wholePicture, view: 'twin', tool: 'move', areas: [], wipe: 0.5 }),
  });
  if (!same) usePlayhead.setState({ frame: clip.steady.range.first, shown: -1, playing: false });
  solve();
}

/** Keys on their way to the server, by track: what it says of those tracks meanwhile is older than what is shown. */
const keysUnderway = new Map<string, number>();

const changes = new InOrder<ClipChange>(
  () => get().revision,
  apply,
  () => void reload(),
);

/** Takes an edit over, one's own or another's, whether told by answer or by event. */
function take(change: ClipChange): void {
  if (get().clip?.id === change.clipId) changes.take(change);
}

function apply(change: ClipChange): void {
  const state = get();
  if (!state.clip) return;
  const gone = new Set(change.removedTracks);
  const changed = new Map(change.tracks.map((t) => [t.id, t]));
  const kept = state.tracks.filter((t) => !gone.has(t.id)).map((t) => changed.get(t.id) ?? t);
  const known = new Set(kept.map((t) => t.id));
  const tracks = [...kept, ...change.tracks.filter((t) => !known.has(t.id))].sort(
    (a, b) => a.position - b.position,
  );
  const samples = new Map(state.samples);
  gone.forEach((id) => samples.delete(id));
  unpack(
    samples,
    change.pages.filter((p) => !gone.has(p.trackId) && !keysUnderway.get(p.trackId)),
    state.clip.frames,
  );
  const fresh = change.tracks.flatMap(({ id }) => (known.has(id) ? [] : [id]));
  const choice =
    placing && fresh.length > 0
      ? allOf(fresh)
      : among(
          tracks.map((t) => t.id),
          state,
        );
  // A slider that is being moved is ahead of the server.
  const steady = change.steady && !unsaved ? change.steady : state.steady;
  set({
    tracks,
    samples,
    ...choice,
    steady,
    history: change.history,
    revision: change.revision,
    versions: altered(new Set([...changed.keys(), ...change.pages.map((p) => p.trackId)])),
  });
  solve();
}

export function hear(event: ProjectEvent): void {
  const { clip, samples, jobs } = get();
  if (!clip) return;
  if (event.type === 'change') take(event.change);
  else if (event.type === 'clip' && event.clip.id === clip.id) set({ clip: { ...clip, ...event.clip } });
  else if (event.type === 'reset') void reload();
  else if (event.type === 'job' && event.job.clipId === clip.id) {
    const { job } = event;
    const before = jobs.find((j) => j.id === job.id);
    set({ jobs: before ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs] });
    if (job.state === 'failed' && before?.state !== 'failed' && job.error) toast.error(job.error);
  } else if (event.type === 'samples' && event.clipId === clip.id) {
    const track = samples.get(event.trackId);
    if (!track) return;
    for (const [frame, x, y, confidence, rotation, scale, state, reason] of event.samples) {
      const how = { state: state as State, reason: reason as Reason };
      track.set(frame, { x, y, confidence, rotation, scale, ...how });
    }
    heardOf.add(event.trackId);
    tellingSoon ??= setTimeout(tellOfSamples, eachTold);
  }
}

/** Tracks that samples have been heard of, to be shown together: hundreds may be on their way at once. */
const heardOf = new Set<string>();
const eachTold = 80;
let tellingSoon: ReturnType<typeof setTimeout> | undefined;

function tellOfSamples(): void {
  set({ versions: altered(heardOf) });
  heardOf.clear();
  tellingSoon = undefined;
  solve({ hurry: false });
}

function altered(ids: Iterable<string>): ReadonlyMap<string, number> {
  const versions = new Map(get().versions);
  for (const id of ids) versions.set(id, (versions.get(id) ?? 0) + 1);
  return versions;
}

export async function reload(): Promise<void> {
  const { clip } = get();
  if (!clip) return;
  changes.forget();
  try {
    const fresh = await api.clip(clip.id);
    // An edit that came while it was fetched is not in it.
    if (fresh.revision < get().revision) return await reload();
    showClip(fresh);
  } catch (error) {
    complain(error);
  }
}

function complain(error: unknown): void {
  toast.error(error instanceof ApiError ? error.message : String(error));
}

// Edits go to the server one after another, in the order they were made. Without a connection they wait for it.
let line: Promise<unknown> = Promise.resolve();

/** Makes an edit: sends it, and takes over what the server says it has done. */
export async function edit(
  send: (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>,
): Promise<ClipChange | undefined> {
  const { clip } = get();
  if (!clip) return undefined;
  set({ saving: get().saving + 1 });
  const base = get().revision;
  const turn = line.then(() => deliver(clip, send, base));
  line = turn.catch(() => undefined);
  try {
    const change = await turn;
    if (change) take(change);
    return change;
  } catch (error) {
    complain(error);
    void reload();
    return undefined;
  } finally {
    set({ saving: get().saving - 1 });
  }
}

/** Sends an edit until it has arrived. Its key lets the server know it again, its base what it was made on. */
async function deliver(
  clip: ClipView,
  send: (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>,
  seen: number,
): Promise<ClipChange | undefined> {
  const key = crypto.randomUUID();
  let base: number | null = seen;
  for (;;) {
    try {
      return await send(clip, edits({ key, base }));
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      if (error.status === 0) await connection();
      else if (error.status === insufficientStorage) await room(error.message);
      else if (error.conflict === undefined) throw error;
      else if (await ownInstead(error.message)) base = null;
      else {
        await reload();
        return undefined;
      }
    }
  }
}

const insufficientStorage = 507;
/** Milliseconds until what found no room on the disk is tried again. */
const untilRoom = 3000;

/** Says what is in the way, and resolves when it is worth trying again. */
async function room(message: string): Promise<void> {
  set({ hindrance: message });
  await new Promise((resolve) => setTimeout(resolve, untilRoom));
  set({ hindrance: null });
}

/** Resolves when the server may answer again. */
async function connection(): Promise<void> {
  set({ connected: false });
  do await new Promise((resolve) => setTimeout(resolve, 1000));
  while (
    !(await fetch('/api/health').then(
      (response) => response.ok,
      () => false,
    ))
  );
  set({ connected: true });
}

/** Asks whether one's own edit is to be done although another window has changed the same. */
function ownInstead(message: string): Promise<boolean> {
  return new Promise((resolve) => {
    const choose = (own: boolean): void => {
      set({ conflict: null });
      resolve(own);
    };
    set({ conflict: { message, choose } });
  });
}

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
  set({ steady: next, unsaved: true });
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
  set({ unsaved: false });
  await sent;
}

/** Tracks of one's own are on their way: they are chosen as soon as they come, by answer or by event. */
let placing = false;

/** Makes an edit that places tracks; they are chosen. */
export async function place(
  send: (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>,
): Promise<ClipChange | undefined> {
  placing = true;
  return edit(send).finally(() => (placing = false));
}

export function setKey(id: string, frame: number, x: number, y: number): void {
  const samples = get().samples.get(id);
  const before = samples?.get(frame);
  samples?.set(frame, {
    x,
    y,
    confidence: 1,
    rotation: before?.rotation ?? 0,
    scale: before?.scale ?? 1,
    state: SampleState.placed,
  });
  set({ versions: altered([id]) });
  keysUnderway.set(id, (keysUnderway.get(id) ?? 0) + 1);
  void edit((_, edits) =>
    edits.setKey(id, frame, { x, y }).finally(() => keysUnderway.set(id, (keysUnderway.get(id) ?? 1) - 1)),
  );
}

export const undo = (): Promise<void> => replay('undo');
export const redo = (): Promise<void> => replay('redo');

/** Whether there is anything to go back to shows when its turn comes: an edit may still be on its way. */
async function replay(way: 'undo' | 'redo'): Promise<void> {
  await saveSteady();
  if (!get().history[way] && get().saving === 0) return;
  await edit(async (clip, edits) => (get().history[way] ? edits[way](clip.id) : undefined));
}

export const isGoingOn = ({ state }: JobView): boolean => state === 'running' || state === 'waiting';

/** The job of a kind that began last. */
export const latestJob = (kind: JobView['kind']) => (state: EditorState) =>
  state.jobs
    .filter((j) => j.kind === kind)
    .reduce<JobView | undefined>((a, b) => (a && a.startedAt > b.startedAt ? a : b), undefined);

export const runningJob = (kind: JobView['kind']) => (state: EditorState) =>
  state.jobs.find((j) => j.kind === kind && isGoingOn(j));

/** Starts work anew that was cut short or failed. */
export const startAgain = (id: string): Promise<void> => attempt(() => api.again(id));

export const cancelJob = (id: string): Promise<void> => attempt(() => api.cancel(id));

export async function startExport(): Promise<void> {
  await saveSteady();
  await edit(async (clip) => {
    await api.export(clip.id);
    return undefined;
  });
}

/** Goes to a frame, kept within the clip. */
export function go(frame: number): void {
  const { clip } = get();
  if (!clip) return;
  usePlayhead.setState({ frame: Math.min(Math.max(Math.round(frame), 0), clip.frames - 1), playing: false });
}

export function togglePlay(): void {
  const { steady } = get();
  const { playing, frame } = usePlayhead.getState();
  if (!steady) return;
  const { first, last } = steady.range;
  usePlayhead.setState(
    playing ? { playing: false } : { playing: true, frame: frame < first || frame >= last ? first : frame },
  );
}

/** The smallest zoom that hides every bare edge, as solved. */
export async function hideBareEdges(): Promise<void> {
  // A slider may have moved a moment ago.
  await solver.settled();
  const { result } = get();
  if (!result) return;
  if (!result.fit) {
    toast.error(
      'No zoom hides every bare edge: the picture moves out of its own frame. Shorten the range, or smooth instead of holding.',
    );
    return;
  }
  changeSteady({ framing: result.fit.framing }, 'Hide bare edges');
}
