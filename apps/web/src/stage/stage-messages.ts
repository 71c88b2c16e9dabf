import type { Analysis, FrameTimes } from '@lurn/core';
import type { PaneGeometry } from './panes';

/** What the page tells the stage's worker. */
export type StageOrder =
  | {
      type: 'open';
      canvas: OffscreenCanvas;
      url: string;
      clip: { width: number; height: number };
      times: FrameTimes;
    }
  /** Canvas size in device pixels, `ratio` of them to a CSS pixel. */
  | {
      type: 'layout';
      width: number;
      height: number;
      ratio: number;
      panes: PaneGeometry[];
      background: [number, number, number];
    }
  | { type: 'placements'; placements: Float64Array | null }
  /** The source as a tracker sees it; null for as it is. */
  | { type: 'analysis'; analysis: Analysis | null }
  | { type: 'show'; frame: number }
  | { type: 'play'; from: number; first: number; last: number }
  | { type: 'pause' };

/** What it hears back. */
export type StageNews =
  | { type: 'opened'; frames: number }
  | { type: 'failed'; reason: string }
  /** This frame is drawn now; `milliseconds` from asking to drawn. */
  | { type: 'shown'; frame: number; milliseconds: number };
