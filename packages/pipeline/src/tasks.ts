import type { MessagePort } from 'node:worker_threads';
import type {
  Areas,
  CarriedLayer,
  FollowOptions,
  LeftOut,
  MaskRecipe,
  Match,
  Place,
  RoundTrip,
  LayerPicture,
  Offset,
  PlaceScore,
  Point,
  ShotSummary,
  Suggestion,
  SuggestOptions,
} from '@lurn/core';
import type { Clip, ClipIndex, Encoding } from '@lurn/media';
import type { PackedSamples } from './analyse/packed-samples.js';
import type { ExportOptions } from './render/export-movie.js';
import type { StepOrder } from './render/steps.js';
import type { FoundSample, TrackClipOptions } from './analyse/track-clip.js';

export interface TrackTask {
  kind: 'track';
  clip: Clip;
  index: ClipIndex;
  runs: { samples: PackedSamples; options: FollowOptions; from: number; offsets: readonly Offset[] }[];
  direction: TrackClipOptions['direction'];
  first: number;
  last: number;
  /** How the whole picture moved, page by page, as far as it is known. */
  scene?: [page: number, bytes: Uint8Array][];
  /** A step by hand: frames come from those kept at hand. */
  step?: boolean;
}

/** Finds the whole picture's motion. Called off, it still tells what it has. */
export interface SceneTask {
  kind: 'scene';
  clip: Clip;
  index: ClipIndex;
  areas: Areas;
}

/** What was found of a scene: its shots, and packed pages of their motions and of their features. */
export interface PackedScene {
  shots: ShotSummary[];
  motions: [page: number, bytes: Uint8Array][];
  features: [page: number, bytes: Uint8Array][];
}

export interface ExportTask {
  kind: 'export';
  clip: Clip;
  index: ClipIndex;
  steps: readonly StepOrder[];
  beside?: ExportOptions['beside'];
  words?: ExportOptions['words'];
  encoding: Encoding;
  first: number;
  last: number;
  path: string;
}

export interface SuggestTask {
  kind: 'suggest';
  clip: Clip;
  index: ClipIndex;
  frame: number;
  options: SuggestOptions;
}

/** Scores one place, and keeps the frames about it at hand. */
export interface JudgeTask {
  kind: 'judge';
  clip: Clip;
  index: ClipIndex;
  frame: number;
  at: Point;
  options: Pick<SuggestOptions, 'template' | 'search' | 'analysis' | 'model'>;
}

/** Has the frames about one decoded before they are asked for. */
export interface WarmTask {
  kind: 'warm';
  clip: Clip;
  index: ClipIndex;
  frame: number;
}

/** Tells what of a region is left out on a frame. */
export interface LeftOutTask {
  kind: 'left-out';
  clip: Clip;
  index: ClipIndex;
  options: FollowOptions;
  /** The key that it has its look from, and where it is on the frame. */
  key: { frame: number; place: Place };
  here: { frame: number; place: Place };
}

/** Makes what a layer shows of the clip itself on a frame; or tells what its way there and back loses. */
export interface PatchTask {
  kind: 'patch' | 'round-trip';
  clip: Clip;
  index: ClipIndex;
  layer: CarriedLayer;
  frame: number;
}

/** Measures what is about a layer on a frame, on the original. */
export interface AroundTask {
  kind: 'around';
  clip: Clip;
  index: ClipIndex;
  mask: MaskRecipe;
  frame: number;
}

export type Task =
  | AroundTask
  | TrackTask
  | SceneTask
  | ExportTask
  | SuggestTask
  | JudgeTask
  | WarmTask
  | PatchTask
  | LeftOutTask;

/** What a worker says on its way. */
export type TaskNews =
  | { frames: number; total?: number }
  | { around: Match }
  | { found: FoundSample[] }
  /** Pages of how the whole picture moved that have been added to. */
  | { scene: [page: number, bytes: Uint8Array][] }
  | { sceneFound: PackedScene }
  | { suggestions: Suggestion[] }
  | { score: PlaceScore }
  | { patch: LayerPicture | null }
  | { roundTrip: RoundTrip | null }
  | { leftOut: LeftOut | null };

/** What a worker is started with; a message on `port` calls the work off. */
export interface TaskCall {
  task: Task;
  port: MessagePort;
  /** How many cores it may take. */
  cores: number;
}

/** How the work ended. Errors cross as text: their class would be lost between threads. */
export type TaskEnd =
  { end: 'done' } | { end: 'cancelled' } | { end: 'failed'; reason: string; expected: boolean };
