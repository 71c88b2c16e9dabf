import type {
  ClipChange,
  ClipView,
  HistoryView,
  KeptSteadyView,
  LayerView,
  JobView,
  PageView,
  SampleRow,
  SceneView,
  SteadyView,
  TrackView,
} from '@lurn/contract';
import {
  type Layer,
  splitPages,
  type Reason,
  type SampleState,
  type Room,
  type ShakeReport,
  type SteadyResult,
  type TradePoint,
} from '@lurn/core';
import { create } from 'zustand';
import { TrackSamples } from './track-samples';

/** A layer as the server keeps it. */
export type LayerOfClip = LayerView & Layer;

/** The clip that is worked on as the server has it, and what follows from it. */
export interface Document {
  clip: ClipView | null;
  tracks: TrackView[];
  samples: ReadonlyMap<string, TrackSamples>;
  /** The whole picture's motion, where it has been found. */
  scene: SceneView | null;
  /** What is dressed onto it, the top one first. */
  layers: LayerOfClip[];
  steady: SteadyView | null;
  /** Other settings, kept by name. */
  kept: KeptSteadyView[];
  history: HistoryView;
  jobs: JobView[];
  /** Counts edits, as the server does; what is newer has not been seen. */
  revision: number;
  /** Worked out from tracks and steadying; null until it has been. */
  result: SteadyResult | null;
  /** Why it could not be, in a sentence. */
  fault: string | null;
  /** What every zoom would buy, as far as it has been worked out; for composed paths. */
  trade: readonly TradePoint[];
  /** What shakes on features that no solve has seen; null where there is no scene. */
  shake: ShakeReport | null;
  /** How far the picture could be moved on each frame before a bare edge shows. */
  room: { frames: number[]; rooms: Room[] } | null;
}

const nothing: Document = {
  clip: null,
  tracks: [],
  samples: new Map(),
  scene: null,
  layers: [],
  steady: null,
  kept: [],
  history: { undo: null, redo: null },
  jobs: [],
  revision: 0,
  result: null,
  fault: null,
  trade: [],
  shake: null,
  room: null,
};

export const useDocument = create<Document>(() => nothing);

const bytesOf = (text: string): Uint8Array => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

/** Samples with pages taken in. */
function withPages(
  samples: ReadonlyMap<string, TrackSamples>,
  pages: readonly PageView[],
  frames: number,
): Map<string, TrackSamples> {
  const next = new Map(samples);
  for (const { id, page, bytes } of pages)
    next.set(
      id,
      (next.get(id) ?? TrackSamples.empty(frames)).withPage(page, bytes === null ? null : bytesOf(bytes)),
    );
  return next;
}

/** A document of a clip as the server has it. */
export function documentOf(
  clip: ClipView,
  overlay: Overlay = noOverlay,
): Omit<Document, 'result' | 'fault' | 'trade' | 'shake' | 'room'> {
  const { kept, history, jobs, revision, frames } = clip;
  const tracks = clip.tracks.map((track) => overlay.record('track', track.id, track));
  const scene = clip.scene && overlay.record('scene', clip.scene.id, clip.scene);
  const layers = clip.layers.map((layer) => overlay.record('layer', layer.id, layer));
  const steady = overlay.record('steady', clip.id, clip.steady);
  const empty = new Map(tracks.map(({ id }) => [id, TrackSamples.empty(frames)]));
  const pages = clip.pages.filter(({ column }) => column === 'samples');
  const samples = withPages(empty, pages, frames);
  for (const [id, own] of samples) samples.set(id, overlay.samples(id, own));
  return {
    clip,
    tracks,
    samples,
    scene,
    layers: layers as LayerOfClip[],
    steady,
    kept,
    history,
    jobs,
    revision,
  };
}

/** What is shown ahead of the server: laid over what it tells of records and of samples. */
export interface Overlay {
  record: <V extends object>(kind: string, id: string, view: V) => V;
  samples: (id: string, samples: TrackSamples) => TrackSamples;
}

const noOverlay: Overlay = { record: (_, __, view) => view, samples: (_, samples) => samples };

type Told = Pick<
  Document,
  'tracks' | 'samples' | 'scene' | 'steady' | 'kept' | 'layers' | 'history' | 'revision'
>;

/** What an edit makes of a document. */
export function applyChange(document: Document, change: ClipChange, overlay = noOverlay): Told {
  const frames = document.clip?.frames ?? 0;
  const tracks = new Map(document.tracks.map((track) => [track.id, track]));
  let { scene, steady, kept, layers } = document;
  for (const { kind, id, view: told } of change.records) {
    const view = told && overlay.record(kind, id, told);
    if (kind === 'track') {
      if (view) tracks.set(id, view as TrackView);
      else tracks.delete(id);
    } else if (kind === 'scene') {
      scene = view as SceneView | null;
    } else if (kind === 'layer') {
      const others = layers.filter((one) => one.id !== id);
      layers = view ? [...others, view as LayerOfClip] : others;
    } else if (kind === 'kept-steady') {
      const others = kept.filter((one) => one.id !== id);
      kept = view ? [...others, view as KeptSteadyView] : others;
    } else if (kind === 'steady' && view) steady = view as SteadyView;
  }
  const pages = change.pages.filter(({ id, column }) => column === 'samples' && tracks.has(id));
  const samples = withPages(document.samples, pages, frames);
  for (const { id } of pages) samples.set(id, overlay.samples(id, samples.get(id) as TrackSamples));
  for (const id of samples.keys()) if (!tracks.has(id)) samples.delete(id);
  for (const id of tracks.keys()) if (!samples.has(id)) samples.set(id, TrackSamples.empty(frames));
  return {
    tracks: [...tracks.values()].sort((a, b) => a.position - b.position),
    samples,
    scene,
    steady,
    kept,
    layers: layers === document.layers ? layers : layers.sort((a, b) => a.position - b.position),
    history: change.history,
    revision: change.revision,
  };
}

/** Samples with rows taken in as they were found, track by track. */
export function withRows(
  samples: ReadonlyMap<string, TrackSamples>,
  found: ReadonlyMap<string, readonly SampleRow[]>,
): ReadonlyMap<string, TrackSamples> {
  const next = new Map(samples);
  for (const [id, rows] of found) {
    const track = next.get(id);
    if (track) next.set(id, track.with(rows.map(sampleOf)));
  }
  return next;
}

const sampleOf = ([frame, x, y, confidence, rotation, scale, state, reason, ...rest]: SampleRow) => {
  const [stretch, shear, tiltX, tiltY] = rest;
  const pose = { x, y, rotation, scale, stretch, shear, tiltX, tiltY };
  return [frame, { ...pose, confidence, state: state as SampleState, reason: reason as Reason }] as const;
};

/** Samples with pages of one track taken in that came joined: each after its number and its length, 32 bits. */
export function withJoinedPages(frames: number, joined: ArrayBuffer): TrackSamples {
  return (splitPages(new Uint8Array(joined)) ?? []).reduce(
    (samples, { page, bytes }) => samples.withPage(page, bytes),
    TrackSamples.empty(frames),
  );
}

export const isGoingOn = ({ state }: JobView): boolean => state === 'running' || state === 'waiting';

/** The job of a kind that began last. */
export const latestJob =
  (kind: JobView['kind']) =>
  ({ jobs }: Pick<Document, 'jobs'>): JobView | undefined =>
    jobs
      .filter((j) => j.kind === kind)
      .reduce<JobView | undefined>((a, b) => (a && a.startedAt > b.startedAt ? a : b), undefined);

export const runningJob =
  (kind: JobView['kind']) =>
  ({ jobs }: Pick<Document, 'jobs'>): JobView | undefined =>
    jobs.find((j) => j.kind === kind && isGoingOn(j));
