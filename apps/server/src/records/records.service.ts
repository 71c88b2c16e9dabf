import { Inject, Injectable } from '@nestjs/common';
import type { PackedPage } from '@lurn/core';
import { idsIn, mapIds, withoutIds } from '@lurn/model';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { recordPages, records } from '../database/schema.js';
import type { RecordChange } from './change.js';
import type { Statement } from './record-kind.js';
import { kindOf } from './record-kinds.js';

/** A record as it is today. */
export interface StoredRecord {
  id: string;
  clipId: string;
  kind: string;
  view: object;
}

/** Records and their packed data, as they are stored. */
@Injectable()
export class RecordsService {
  constructor(@Inject(DATABASE) private readonly database: Database) {}

  async ofClip(clipId: string): Promise<StoredRecord[]> {
    const rows = await this.database.select().from(records).where(eq(records.clipId, clipId));
    return rows.map(asToday);
  }

  /** Those of some ids that there are. */
  async find(ids: readonly string[]): Promise<StoredRecord[]> {
    const rows = await this.database
      .select()
      .from(records)
      .where(inArray(records.id, [...ids]));
    return rows.map(asToday);
  }

  /** What becomes of a clip's other records where some are deleted: they name them no more, or others in their place. */
  async lettingGo(
    clipId: string,
    gone: readonly string[],
    instead: ReadonlyMap<string, string> = new Map(),
  ): Promise<RecordChange[]> {
    const lost = new Set(gone.filter((id) => !instead.has(id)));
    const others = (await this.ofClip(clipId)).filter(({ id }) => !gone.includes(id));
    return others.flatMap(({ kind, id, view: before }) => {
      const { description } = kindOf(kind);
      if (!idsIn(description, before).some((one) => gone.includes(one))) return [];
      const moved = mapIds(description, before, (one) => instead.get(one) ?? one);
      return [{ kind, id, before, after: withoutIds(description, moved, lost) }];
    });
  }

  pagesOf(recordId: string, column: string): Promise<PackedPage<Buffer>[]> {
    return this.database
      .select({ page: recordPages.page, bytes: recordPages.bytes })
      .from(recordPages)
      .where(and(eq(recordPages.recordId, recordId), eq(recordPages.column, column)))
      .orderBy(asc(recordPages.page));
  }

  /** Bytes of a column of packed data of all of a clip's records. */
  async bytesOf(clipId: string, column: string): Promise<number> {
    const [row] = await this.database
      .select({ bytes: sql<number>`coalesce(sum(length(${recordPages.bytes})), 0)` })
      .from(recordPages)
      .innerJoin(records, eq(records.id, recordPages.recordId))
      .where(and(eq(records.clipId, clipId), eq(recordPages.column, column)));
    return row.bytes;
  }

  /** All packed data of a clip's records. */
  allPages(clipId: string) {
    const { recordId, column, page, bytes } = recordPages;
    return this.database
      .select({ id: recordId, column, page, bytes })
      .from(recordPages)
      .innerJoin(records, eq(records.id, recordPages.recordId))
      .where(eq(records.clipId, clipId));
  }

  /** Carries statements out, all or none. */
  async store(statements: Statement[]): Promise<void> {
    if (statements.length > 0) await this.database.batch(statements as [Statement, ...Statement[]]);
  }

  /** Stores a record as a change has it, or deletes it. */
  put({ kind, id, after }: Pick<RecordChange, 'kind' | 'id' | 'after'>, clipId: string): Statement {
    if (!after) return this.database.delete(records).where(eq(records.id, id));
    const own = kindOf(kind).store?.(this.database, clipId, after);
    if (own) return own;
    return this.database
      .insert(records)
      .values({ id, clipId, kind, view: after })
      .onConflictDoUpdate({ target: records.id, set: { view: after } });
  }

  /** Stores a page, or deletes it. */
  putPage(recordId: string, column: string, page: number, bytes: Buffer | null): Statement {
    const { recordId: id, column: name, page: number } = recordPages;
    if (bytes === null)
      return this.database
        .delete(recordPages)
        .where(and(eq(id, recordId), eq(name, column), eq(number, page)));
    return this.database
      .insert(recordPages)
      .values({ recordId, column, page, bytes })
      .onConflictDoUpdate({ target: [id, name, number], set: { bytes } });
  }
}

const asToday = (row: typeof records.$inferSelect): StoredRecord => ({
  ...row,
  view: kindOf(row.kind).read(row.view),
});
