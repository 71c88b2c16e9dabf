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
  columns: Readonly<Record<string, PackedColumn>>;
  /** A record as it was kept, by this or an older version, as it is today. */
  read: (kept: object) => View;
  /** Which parts of a record an edit changes: two edits may change different ones at once. */
  parts: (before: View, after: View) => string[];
  /** Whether something that comes from outside is such a record, for a clip of so many frames. */
  check: (view: unknown, frames: number) => Promise<boolean>;
  /** The same under another id and in another clip, where records that it names have other ids, too. */
  copy: (view: View, id: string, clipId: string, newIdOf: (id: string) => string) => View;
  /** Where it is kept other than among the records: how it is stored. */
  store?: (database: Database, clipId: string, view: View) => Statement;
}

/** Parts of a view that are not the same, by their names. */
export const differingFields = <T extends object>(before: T, after: T): string[] =>
  Object.keys(after).filter((key) => {
    const name = key as keyof T;
    return JSON.stringify(before[name]) !== JSON.stringify(after[name]);
  });
