import type { SteadyView, TrackView } from '@lurn/contract';

/** One thing an edit did, told so that it can be done and undone. Pages are base64, null when empty. */
export type Change =
  | { kind: 'track'; id: string; before: TrackView | null; after: TrackView | null }
  | { kind: 'page'; trackId: string; page: number; before: string | null; after: string | null }
  | { kind: 'steady'; before: SteadyView; after: SteadyView };

/** The same changes the other way round, last first. */
export const reversed = (changes: readonly Change[]): Change[] =>
  changes.map((change) => ({ ...change, before: change.after, after: change.before }) as Change).reverse();
