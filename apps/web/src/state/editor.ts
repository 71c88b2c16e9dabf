import type { ClipChange, ClipView, KeptSteadyView, ProjectEvent, SampleRow } from '@lurn/contract';
import { CollapsedMotion, noSample, SampleState, type Sample, type SteadyClip } from '@lurn/core';
import { toast } from 'sonner';
import { attempt } from '../api/attempt';
import { api, type Edits } from '../api/client';
import { Solver } from '../solving/solver';
import { timesOf } from './clip-times';
import { applyChange, documentOf, useDocument, withJoinedPages, withRows, type Overlay } from './document';
import { ahead, deliverBy, overlaid, touch } from './drafts';
import { InOrder } from './in-order';
import { guidesOf } from './guides';
import { lastChoice, useExporting } from './exporting';
import { usePlayhead } from './playhead';
import { solveCompared, useCompared } from './kept';
import { loadQueue, tellQueue } from './queue';
import { heldScene, useScene } from './scene';
import { allOf, alone, restrict, useSelection } from './selection';
import { complain, inLine } from './sync';
import type { TrackSamples } from './track-samples';
import { useTimeWindow, wholeClip } from './time-window';
import { firstView, useView } from './view';

// What the person does, and what the server tells, come together here.

const { getState: get, setState: set } = useDocument;

const solver = new Solver(
  (result) => set({ result, fault: null }),
  (frame) => set({ result: null, fault: new CollapsedMotion(frame, namesOn(frame)).message }),
  (trade) => set({ trade }),
  (measured) => set(measured),
);

/** The tracks that tell the motion on a frame. */
function namesOn(frame: number): string[] {
  const { tracks, samples } = get();
  return tracks.flatMap(({ id, name, used }) => (used && samples.get(id)?.found(frame) ? [name] : []));
}

/** Solves where anything has changed that it depends on; in no hurry where more is to come. */
export function solve({ hurry } = { hurry: true }): void {
  const { clip, steady, tracks, samples } = get();
  if (!clip || !steady) return;
  const used = tracks.flatMap(({ id, used: counts, region }) => {
    const own = counts ? samples.get(id) : undefined;
    return own ? [{ id, samples: own, region }] : [];
  });
  const problem = { tracks: used, clip: solvedClip(clip), settings: steady, scene: heldScene() };
  solver.solve(problem, { hurry });
  solveCompared(problem);
}

/** Compares what is chosen with settings that were kept. */
export function compareWith(kept: KeptSteadyView): void {
  useCompared.setState({ kept, result: null, shake: null });
  solve({ hurry: false });
}

useScene.subscribe((now, before) => {
  if (now.motions !== before.motions) solve();
});

const solvedClip = (clip: ClipView): SteadyClip => ({
  width: clip.width,
  height: clip.height,
  times: timesOf(clip),
  pixelAspect: clip.pixelAspect,
});

/** Resolves when all that has been ordered is solved. */
export const solved = (): Promise<void> => solver.settled();

/** No clip is shown, until the next is. */
export function closeClip(): void {
  set({ clip: null, result: null, fault: null });
}

/** Shows a clip as the server has it. */
export function showClip(clip: ClipView): void {
  const isSame = get().clip?.id === clip.id;
  const ids = clip.tracks.map(({ id }) => id);
  if (!isSame) {
    solver.forget();
    if (clip.lastExport) useExporting.setState({ request: lastChoice(clip.lastExport) });
    void loadQueue(clip.projectId);
    useView.setState({ ...firstView, guides: guidesOf(clip.id) });
    useTimeWindow.setState(wholeClip);
    usePlayhead.setState({ frame: clip.steady.range.first, shown: -1, playing: false });
    set({ result: null, fault: null, trade: [], shake: null, room: null });
  }
  useSelection.setState(isSame ? restrict(ids, useSelection.getState()) : alone(ids[0] ?? null));
  set(documentOf(clip, drafted));
  fetchStale(clip.stale);
  solve();
}

/** Fetches packed data that was too much to be told. */
function fetchStale(ids: readonly string[]): void {
  for (const id of ids)
    void attempt(async () => {
      const joined = await api.packed(id, 'samples');
      const { clip, samples } = get();
      if (!clip || !samples.has(id)) return;
      const told = drafted.samples(id, withJoinedPages(clip.frames, joined));
      set({ samples: new Map(samples).set(id, told) });
      solve({ hurry: false });
    });
}

/** What is ahead of the server is shown over what it tells. */
const drafted: Overlay = {
  record: overlaid,
  samples: (id, samples) =>
    ahead('samples', id).reduce<TrackSamples>(
      (own, keys) => own.with(Object.entries(keys).map(([frame, key]) => [Number(frame), key as Sample])),
      samples,
    ),
};

/** Tracks of one's own are on their way: they are chosen as soon as they come, by answer or by event. */
let placing = false;

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
  const before = get();
  const after = applyChange(before, change, drafted);
  const known = new Set(before.tracks.map(({ id }) => id));
  const fresh = after.tracks.flatMap(({ id }) => (known.has(id) ? [] : [id]));
  const ids = after.tracks.map(({ id }) => id);
  useSelection.setState((selection) =>
    placing && fresh.length > 0 ? allOf(fresh) : restrict(ids, selection),
  );
  set(after);
  fetchStale(change.stale.filter((id) => after.samples.has(id)));
  solve();
}

export function onEvent(event: ProjectEvent): void {
  tellQueue(event);
  const { clip, jobs } = get();
  if (!clip) return;
  if (event.type === 'change') take(event.change);
  else if (event.type === 'clip' && event.clip.id === clip.id) set({ clip: { ...clip, ...event.clip } });
  else if (event.type === 'reset') void reload();
  else if (event.type === 'job-gone') set({ jobs: jobs.filter(({ id }) => id !== event.id) });
  else if (event.type === 'job' && event.job.clipId === clip.id) {
    const { job } = event;
    const before = jobs.find((j) => j.id === job.id);
    set({ jobs: before ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs] });
    if (job.state === 'failed' && before?.state !== 'failed' && job.error) toast.error(job.error);
  } else if (event.type === 'samples' && event.clipId === clip.id) {
    toldOf.set(event.trackId, [...(toldOf.get(event.trackId) ?? []), ...event.samples]);
    tellingSoon ??= setTimeout(takeSamples, eachTold);
  }
}

/** Samples that have been told of, to be shown together: hundreds of tracks may be on their way at once. */
let toldOf = new Map<string, SampleRow[]>();
const eachTold = 80;
let tellingSoon: ReturnType<typeof setTimeout> | undefined;

function takeSamples(): void {
  set({ samples: withRows(get().samples, toldOf) });
  toldOf = new Map();
  tellingSoon = undefined;
  solve({ hurry: false });
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

/** Makes an edit: sends it, and takes over what the server says it has done. `base` is the revision that it was made on. */
export async function edit(
  send: (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>,
  base = get().revision,
  givenUp: () => void = () => undefined,
): Promise<ClipChange | undefined> {
  const { clip } = get();
  if (!clip) return undefined;
  try {
    const change = await inLine(
      (edits) => send(clip, edits),
      base,
      () => (givenUp(), reload()),
    );
    if (change) take(change);
    return change;
  } catch (error) {
    complain(error);
    givenUp();
    void reload();
    return undefined;
  }
}

/** Makes an edit that places tracks; they are chosen. */
export async function place(
  send: (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>,
): Promise<ClipChange | undefined> {
  placing = true;
  return edit(send).finally(() => (placing = false));
}

export function setKey(id: string, frame: number, x: number, y: number): void {
  const { samples } = get();
  const own = samples.get(id);
  const here = own?.get(frame) ?? noSample;
  const key = { ...here, x, y, confidence: 1, state: SampleState.placed, reason: noSample.reason };
  if (own) set({ samples: new Map(samples).set(id, own.with([[frame, key]])) });
  void touch({
    ...{ kind: 'samples', id, part: { [frame]: key } },
    ...{ label: `key on ${frame}`, rest: 0 },
    send: (_, edits) => edits.setKey(id, frame, { x, y }),
  });
}

deliverBy(edit);

/** Starts work anew that was cut short or failed. */
export const startAgain = (id: string): Promise<void> => attempt(() => api.again(id));

export const clearExport = (id: string): Promise<void> => attempt(() => api.clearExport(id));

export const cancelJob = (id: string): Promise<void> => attempt(() => api.cancel(id));

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
