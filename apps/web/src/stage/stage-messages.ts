import type {
  Analysis,
  Carried,
  CarriedLayer,
  Colour,
  EdgeKind,
  FrameTimes,
  Interpolation,
  LayerPicture,
  Placing,
  Point,
  UnfilledKind,
} from '@lurn/core';
import type { PaneGeometry } from './panes';
import type { Ride } from './ride';

/** How the output is made of the frames. */
export interface OutputLook {
  size: { width: number; height: number };
  /** What of the steadied picture fills it at zoom 1, clip pixels. */
  window: { width: number; height: number };
  edge: EdgeKind;
  unfilled: UnfilledKind;
  /** How frames lie to each other, where edges are filled from others. */
  carried: Carried | null;
  interpolation: Interpolation;
  /** The smallest there is. */
  zoom: number;
}

/** The output by what is chosen, and by the settings that it is compared with. */
export type OutputName = 'own' | 'other';

/** What the page tells the stage's worker. */
export type StageOrder =
  | {
      type: 'open';
      canvas: OffscreenCanvas;
      /** The clip's. */
      id: string;
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
  /** Of what is chosen, or of what it is compared with in place of the source; null where there is none. */
  | { type: 'placements'; of: OutputName; placing: Placing | null; look: OutputLook }
  /** How frames lie in the held picture, nine numbers each; null where it is not shown. */
  | { type: 'held'; placements: Float64Array | null }
  /** Whether bare edges are hatched, where they would be black. */
  | { type: 'hatching'; hatched: boolean }
  /** The steadied picture gives way to what it is compared with, or is shown by how it differs from it. */
  | { type: 'compare'; as: 'itself' | 'source' | 'difference' }
  /** What is dressed onto the frames, and the pictures that it shows. */
  /** One of them is shown by what it covers, in place of the picture. */
  | {
      type: 'layers';
      layers: readonly CarriedLayer[];
      pictures: ReadonlyMap<string, LayerPicture>;
      matteOf: string | null;
    }
  /** Which colour the frame that is shown has, clip pixels. */
  | { type: 'pick'; at: Point }
  /** Several frames at rest laid over each other, so far apart; null for the one alone. */
  | { type: 'onion'; apart: number | null }
  /** The source as a tracker sees it; null for as it is. */
  | { type: 'analysis'; analysis: Analysis | null }
  | { type: 'show'; frame: number }
  /** `rate` times as fast as the clip; drawn at `size` of the full resolution. */
  | {
      type: 'play';
      from: number;
      first: number;
      last: number;
      loop: boolean;
      rate: number;
      size: number;
    }
  /** Moves the pictures so that a point stands still; null to leave them. */
  | { type: 'ride'; ride: Ride | null }
  | { type: 'pause' };

/** What it hears back. */
export type StageNews =
  | { type: 'opened'; frames: number }
  | { type: 'failed'; reason: string }
  | { type: 'picked'; colour: Colour }
  /** Playing once has come to its end, which is this frame. */
  | { type: 'ended'; frame: number }
  /** This frame is drawn now; `milliseconds` from asking to drawn. */
  | { type: 'shown'; frame: number; milliseconds: number };
