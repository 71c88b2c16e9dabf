import { isSound, mapIds, type Kind } from '@lurn/model';
import type { BatchItem } from 'drizzle-orm/batch';
import type { Database } from '../database/database.js';

export type Statement = BatchItem<'sqlite'>;

/** Packed data of a record, in pages. */
export interface PackedColumn {
  /** What two pages of a number differ in, as positions in the whole column, rising; null stands for an empty page. */
  differing: (page: number, one: Buffer | null, other: Buffer | null) => number[];
  /** Whether bytes from outside are a page, of such a number, of something in a clip of so many frames. */
  isPage: (page: number, bytes: Buffer, frames: number) => boolean;
  /** Too much to be told with every change: whoever wants it asks for it. */
  fetched?: boolean;
}

/** Everything that differs by kind of record. A new kind of thing that edits change is one of these, and nothing else. */
export interface RecordKind<View extends object> {
  /** What its fields are, which of them hold ids of other records, and what may be in them. */
  description: Kind;
  columns: Readonly<Record<string, PackedColumn>>;
  /** A record as it was kept, by this or an older version, as it is today. */
  read: (kept: object) => View;
  /** Why one does not fit a clip of so many frames, beside what its description says; null where it does. */
  fault?: (view: View, frames: number) => string | null;
  /** Where it is kept other than among the records: how it is stored. */
  store?: (database: Database, clipId: string, view: View) => Statement;
}

/** Parts of a view that are not the same, by their names: two edits may change different ones at once. */
export const differingFields = (before: object, after: object): string[] =>
  Object.keys(after).filter((key) => {
    const name = key as keyof typeof after;
    return JSON.stringify(before[name]) !== JSON.stringify(after[name]);
  });

/** Whether something that comes from outside is a record of a kind, for a clip of so many frames. */
export function isRecord(
  { description, read, fault }: RecordKind<object>,
  view: unknown,
  frames: number,
): boolean {
  if (typeof view !== 'object' || view === null) return false;
  const today = read(view);
  return isSound(description, today) && !fault?.(today, frames);
}

/** The same under another id and in another clip, where records that it names have other ids, too. */
export function copyOf(
  { description }: RecordKind<object>,
  view: object,
  to: { id: string; clipId: string },
  newIdOf: (id: string) => string,
): object {
  const copy = mapIds(description, view, newIdOf);
  return 'id' in view ? { ...copy, ...to } : copy;
}
