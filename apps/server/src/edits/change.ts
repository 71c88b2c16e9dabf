import type { SteadyView, TrackView } from '@lurn/contract';
import { pageLength, Samples } from '@lurn/core';

/** One thing an edit did, told so that it can be done and undone. Pages are base64, null when empty. */
export type Change =
  | { kind: 'track'; id: string; before: TrackView | null; after: TrackView | null }
  | { kind: 'page'; trackId: string; page: number; before: string | null; after: string | null }
  | { kind: 'steady'; before: SteadyView; after: SteadyView };

/** The same changes the other way round, last first. */
export const reversed = (changes: readonly Change[]): Change[] =>
  changes.map((change) => ({ ...change, before: change.after, after: change.before }) as Change).reverse();

/** What a change touches: a part of something, or `whole`. */
interface Subject {
  of: string;
  part: string;
}

const whole = 'whole';

export function subjects(change: Change): Subject[] {
  switch (change.kind) {
    case 'steady': {
      const { before, after } = change;
      return differing(before, after).map((part) => ({ of: 'steady', part }));
    }
    case 'track': {
      const { id, before, after } = change;
      if (!before || !after) return [{ of: id, part: whole }];
      return differing(before, after).map((part) => ({ of: id, part }));
    }
    case 'page':
      return changedFrames(change).map((frame) => ({
        of: change.trackId,
        part: `frame ${change.page * pageLength + frame}`,
      }));
  }
}

/** Whether two edits have something in common. */
export function meet(a: readonly Subject[], b: readonly Subject[]): boolean {
  return a.some((one) =>
    b.some(
      (other) =>
        one.of === other.of && (one.part === other.part || one.part === whole || other.part === whole),
    ),
  );
}

function differing<T extends object>(before: T, after: T): string[] {
  return Object.keys(after).filter((key) => {
    const name = key as keyof T;
    return JSON.stringify(before[name]) !== JSON.stringify(after[name]);
  });
}

function changedFrames({ before, after }: Extract<Change, { kind: 'page' }>): number[] {
  const [a, b] = [before, after].map((text) => {
    const samples = new Samples(pageLength);
    samples.unpackPage(0, text === null ? null : Buffer.from(text, 'base64'));
    return samples;
  });
  return Array.from({ length: pageLength }, (_, k) => k).filter(
    (k) => JSON.stringify(a.get(k)) !== JSON.stringify(b.get(k)),
  );
}
