import type { MessagePort } from 'node:worker_threads';
import { Samples, type Interpolation, type PointTrackerOptions } from '@lurn/core';
import type { Clip, ClipIndex } from '@lurn/media';
import type { FoundSample, TrackClipOptions } from './track-clip.js';

/** Tracks as they cross from thread to thread: page by page, as they are stored. */
export interface PackedSamples {
  frames: number;
  pages: (Uint8Array | null)[];
}

export function packSamples(samples: Samples): PackedSamples {
  return {
    frames: samples.frames,
    pages: Array.from({ length: samples.pages }, (_, page) => samples.packPage(page)),
  };
}

export function unpackSamples({ frames, pages }: PackedSamples): Samples {
  const samples = new Samples(frames);
  pages.forEach((bytes, page) => samples.unpackPage(page, bytes));
  return samples;
}

export interface TrackTask {
  kind: 'track';
  clip: Clip;
  index: ClipIndex;
  runs: { samples: PackedSamples; options: PointTrackerOptions; from: number }[];
  direction: TrackClipOptions['direction'];
  first: number;
  last: number;
}

export interface ExportTask {
  kind: 'export';
  clip: Clip;
  index: ClipIndex;
  placements: Float64Array;
  first: number;
  last: number;
  interpolation: Interpolation;
  path: string;
}

export type Task = TrackTask | ExportTask;

/** What a worker says on its way. */
export type TaskNews = { frames: number } | { found: FoundSample[] };

/** What a worker is started with; a message on `port` calls the work off. */
export interface TaskCall {
  task: Task;
  port: MessagePort;
}

/** How the work ended. Errors cross as text: their class would be lost between threads. */
export type TaskEnd =
  { end: 'done' } | { end: 'cancelled' } | { end: 'failed'; reason: string; expected: boolean };
