import type { ExportPace, ExportRequest } from './exports.js';
import { Flag } from '@lurn/model';
import type { JobView } from './jobs.js';
import type { LayerView } from './layers.js';
import type { SceneView } from './scene.js';
import type { KeptSteadyView, SteadyView } from './steady.js';
import type { TrackView } from './tracks.js';

/**
 * `reading`: frames are being listed and the proxy made; `failed`: `error` says why in one sentence; `ready`, but with
 * an `error`: it says what of a damaged clip is missing.
 */
export type ClipState = 'waiting' | 'reading' | 'ready' | 'failed';

/** `missing`: the original is not where it was; `changed`: it is not what was read any more. */
export type ClipTrouble = 'missing' | 'changed';

export interface ClipCard {
  id: string;
  projectId: string;
  name: string;
  state: ClipState;
  error: string | null;
  trouble: ClipTrouble | null;
  width: number;
  height: number;
  /** A pixel's width over its height, like "16:11". */
  pixelAspect: string;
  /** Exact, like "30000/1001". */
  frameRate: string;
  /** 0 until the clip is ready. */
  frames: number;
  /** From the first frame to the end of the last, seconds; 0 until the clip is ready. */
  seconds: number;
  /** Whether frames come unevenly: each then keeps its own time, and `frameRate` says little. */
  uneven: boolean;
  bytes: number;
  /** Which field comes first; null for progressive pictures. */
  interlaced: 'top' | 'bottom' | null;
  /** Fields are taken for frames. */
  asFields: boolean;
  /** Where the file lies that is worked on in place; null where it was uploaded. */
  outside: string | null;
  createdAt: string;
}

/** What can be undone and redone next, in words. */
export interface HistoryView {
  undo: string | null;
  redo: string | null;
}

export interface ClipView extends ClipCard {
  codec: string;
  sound: string | null;
  /** Where frames come unevenly: when each begins, seconds from the first, and when the last one ends. */
  times: number[] | null;
  proxy: { width: number; height: number };
  /** Whether its pixels have alpha: then it has a matte too. */
  alpha: boolean;
  tracks: TrackView[];
  /** The whole picture's motion, where it has been found. */
  scene: SceneView | null;
  /** What is dressed onto it, the top one first. */
  layers: LayerView[];
  pages: PageView[];
  /** Records whose packed data is too much to come along: it is to be fetched. */
  stale: string[];
  steady: SteadyView;
  /** Other settings, kept by name, in the order in which they were kept. */
  kept: KeptSteadyView[];
  /** Counts edits; sent along with one, it says what its window has seen. */
  revision: number;
  history: HistoryView;
  jobs: JobView[];
  /** What was asked for when a movie of the project was exported last. */
  lastExport: ExportRequest | null;
  /** What exports have come to on this machine, by codec. */
  exportPaces: Partial<Record<string, ExportPace>>;
}

/** One page of a record's packed data, such as a track's samples, as the core packs them, in base64; null when empty. */
export interface PageView {
  id: string;
  column: string;
  page: number;
  bytes: string | null;
}

/** A record as an edit has left it, null when it is gone: a track's is a TrackView, a scene's a SceneView, the clip's steadying a SteadyView, settings kept by name a KeptSteadyView. */
export interface RecordView {
  kind: string;
  id: string;
  view: object | null;
}

/** What an edit has changed; the same goes to whoever else has the project open. */
export interface ClipChange {
  clipId: string;
  records: RecordView[];
  pages: PageView[];
  /** Records whose packed data has changed by more than is told here: it is to be fetched. */
  stale: string[];
  history: HistoryView;
  revision: number;
}

/** How a clip is to be read once more. */
export class ReadAgainRequest {
  @Flag({ optional: true, description: 'Take every field of an interlaced clip for a frame' })
  asFields?: boolean;
}
