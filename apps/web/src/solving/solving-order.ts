import type {
  Point,
  roomOver,
  Samples,
  ShakeReport,
  SceneChoice,
  ShotSummary,
  SteadyClip,
  SteadyResult,
  SteadySettings,
  TradePoint,
} from '@lurn/core';

/** What solving needs of samples. */
export const solvingColumns = [
  ...(['x', 'y', 'confidence', 'rotation', 'scale', 'stretch', 'shear', 'tiltX', 'tiltY', 'state'] as const),
] as const;

/** Columns of a page of samples, as far as solving needs them. */
export interface SolvingPage {
  /** The page's first frame. */
  from: number;
  /** Null for an empty page. */
  samples: Pick<Samples, (typeof solvingColumns)[number]> | null;
}

/** The tracks that have a say, in order, with the pages that have changed since the last order. */
export interface SolvingOrder {
  tracks: { id: string; fresh: boolean; corners: Point[] | null; pages: SolvingPage[] }[];
  clip: SteadyClip;
  settings: SteadySettings;
  /** What is held of the scene; its motions in pages where they are others than in the last order, else null. */
  scene: {
    shots: readonly ShotSummary[];
    choices: readonly SceneChoice[];
    pages: [page: number, bytes: Uint8Array][] | null;
    /** Its features likewise. */
    features: [page: number, bytes: Uint8Array][] | null;
  } | null;
}

/** What a solving worker tells: the result of an order; then what shakes and how much room there is, and where the path is composed what every zoom would buy. */
export type SolvingNews =
  | { result: SteadyResult }
  | { collapsedOn: number }
  | { trade: TradePoint[] }
  | { shake: ShakeReport | null; room: ReturnType<typeof roomOver> };
