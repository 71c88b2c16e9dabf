import { ConflictException, Inject, Injectable } from '@nestjs/common';
import type { ClipChange, HistoryView } from '@lurn/contract';
import { and, asc, desc, eq, gt, isNull, lte, ne, or, sql } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips, editPages, edits, recordPages, records } from '../database/schema.js';
import { EventHub } from '../events/event-hub.js';
import { isPage, overlap, reversed, type Change, type RecordChange, type Touch } from './change.js';
import { editOrigin } from './edit-origin.js';
import type { Statement } from './record-kind.js';
import { isFetched, kindOf } from './record-kinds.js';
import { RecordsService } from './records.service.js';
import { touches } from './touches.js';

/** More packed data than this is not told with a change: whoever wants it asks for it. */
const mostTold = 2e6;
/** No more edits of a clip than this are kept, nor edits of more bytes, but for the latest. */
const mostEdits = 500;
const mostBytes = 256e6;
/** Pages to an insert. */
const atOnce = 100;

/** A page that an edit has changed, as it is now. */
interface ToldPage {
  id: string;
  column: string;
  page: number;
  bytes: Buffer | null;
}

/** Every change a person makes to a clip goes through here: stored with its way back, then told to all. */
@Injectable()
export class EditsService {
  private readonly turns = new Map<string, Promise<unknown>>();
  /** Records that a job is writing to. */
  private readonly locked = new Set<string>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly records: RecordsService,
    private readonly hub: EventHub,
  ) {}

  /** Runs edits of one clip one after another, so that none reads what another is about to change. */
  inTurn<T>(clipId: string, work: () => Promise<T>): Promise<T> {
    const before = this.turns.get(clipId) ?? Promise.resolve();
    const result = before.then(work, work);
    this.turns.set(
      clipId,
      result.catch(() => undefined),
    );
    return result;
  }

  lock(ids: readonly string[]): void {
    this.requireUnlocked(ids);
    ids.forEach((id) => this.locked.add(id));
  }

  unlock(ids: readonly string[]): void {
    ids.forEach((id) => this.locked.delete(id));
  }

  requireUnlocked(ids: readonly string[]): void {
    if (ids.some((id) => this.locked.has(id))) {
      throw new ConflictException('This track is being followed just now; stop that first.');
    }
  }

  /**
   * Applies changes and remembers them for undo. With `applied`, they have been stored and told already. An edit that
   * comes a second time, because its answer was lost, is not done again. Refuses one that would write over what another
   * window has done and its own has not seen yet.
   */
  async commit(
    clipId: string,
    label: string,
    changes: readonly Change[],
    { applied = false } = {},
  ): Promise<ClipChange> {
    const { window: origin, base, key } = editOrigin();
    if (!applied && key !== null) {
      const [done] = await this.database.select().from(edits).where(eq(edits.key, key));
      if (done) return this.announce(clipId, done.changes, await this.pagesOf(done.id), done.revision);
    }
    const touched = touches(changes);
    if (!applied && base !== null) await this.requireSeen(clipId, touched, base, origin);
    const revision = await this.nextRevision(clipId);
    const whole = changes.filter((change): change is RecordChange => !isPage(change));
    const pages = changes.filter(isPage);
    const bytes =
      JSON.stringify(whole).length + pages.reduce((sum, { before }) => sum + (before?.length ?? 0), 0);
    const fresh = { clipId, label, undone: false, changes: whole, touches: touched, bytes, revision, origin };
    await this.records.store([
      ...(applied ? [] : changes.map((change) => this.statement(change, clipId))),
      this.database.delete(edits).where(and(eq(edits.clipId, clipId), eq(edits.undone, true))),
      this.database.insert(edits).values({ ...fresh, key: applied ? null : key }),
      ...this.keep(pages.map(({ id, column, page, before }) => ({ id, column, page, bytes: before }))),
      this.database.update(clips).set({ revision }).where(eq(clips.id, clipId)),
    ]);
    await this.letGo(clipId);
    const told = applied
      ? []
      : pages.map(({ id, column, page, after }) => ({ id, column, page, bytes: after }));
    return this.announce(clipId, whole, told, revision);
  }

  /** Pages as they were, stored with the edit that was inserted last. */
  private keep(pages: readonly ToldPage[]): Statement[] {
    const editId = sql<number>`(SELECT max(${edits.id}) FROM ${edits})`;
    const statements: Statement[] = [];
    for (let from = 0; from < pages.length; from += atOnce)
      statements.push(
        this.database
          .insert(editPages)
          .values(
            pages
              .slice(from, from + atOnce)
              .map(({ id, column, page, bytes }) => ({ editId, recordId: id, column, page, bytes })),
          ),
      );
    return statements;
  }

  /** Lets the oldest edits go, where there are too many, or they take up too much. */
  private async letGo(clipId: string): Promise<void> {
    const kept = await this.database
      .select({ id: edits.id, bytes: edits.bytes })
      .from(edits)
      .where(eq(edits.clipId, clipId))
      .orderBy(desc(edits.id));
    let bytes = 0;
    const first = kept.findIndex((edit, i) => i > 0 && (i >= mostEdits || (bytes += edit.bytes) > mostBytes));
    if (first > 0)
      await this.database.delete(edits).where(and(eq(edits.clipId, clipId), lte(edits.id, kept[first].id)));
  }

  /** Throws where another window's edit since `base` touches the same as these changes. */
  private async requireSeen(
    clipId: string,
    own: readonly Touch[],
    base: number,
    origin: string | null,
  ): Promise<void> {
    const others = origin === null ? undefined : or(isNull(edits.origin), ne(edits.origin, origin));
    const unseen = await this.database
      .select({ label: edits.label, touches: edits.touches })
      .from(edits)
      .where(and(eq(edits.clipId, clipId), gt(edits.revision, base), others))
      .orderBy(desc(edits.revision));
    const clash = unseen.find((edit) => overlap(own, edit.touches ?? []));
    if (!clash) return;
    throw new ConflictException({
      statusCode: 409,
      message: `Another window has changed this meanwhile: ${clash.label}.`,
      conflict: clash.label,
    });
  }

  private async nextRevision(clipId: string): Promise<number> {
    const [row] = await this.database
      .select({ revision: clips.revision })
      .from(clips)
      .where(eq(clips.id, clipId));
    return (row?.revision ?? 0) + 1;
  }

  async undo(clipId: string): Promise<ClipChange> {
    const edit = await this.next(clipId, 'undo');
    if (!edit) throw new ConflictException('There is nothing to undo.');
    return this.replay(clipId, edit.id, true);
  }

  async redo(clipId: string): Promise<ClipChange> {
    const edit = await this.next(clipId, 'redo');
    if (!edit) throw new ConflictException('There is nothing to redo.');
    return this.replay(clipId, edit.id, false);
  }

  async history(clipId: string): Promise<HistoryView> {
    const [undo, redo] = await Promise.all([this.next(clipId, 'undo'), this.next(clipId, 'redo')]);
    return { undo: undo?.label ?? null, redo: redo?.label ?? null };
  }

  /** The latest edit that stands, or the earliest that was taken back. */
  private async next(clipId: string, way: 'undo' | 'redo') {
    const [edit] = await this.database
      .select({ id: edits.id, label: edits.label })
      .from(edits)
      .where(and(eq(edits.clipId, clipId), eq(edits.undone, way === 'redo')))
      .orderBy(way === 'undo' ? desc(edits.id) : asc(edits.id))
      .limit(1);
    return edit as typeof edit | undefined;
  }

  private async replay(clipId: string, editId: number, undone: boolean): Promise<ClipChange> {
    const [edit] = await this.database
      .select({ changes: edits.changes, touches: edits.touches })
      .from(edits)
      .where(eq(edits.id, editId));
    const { window: origin, base } = editOrigin();
    const touched = edit.touches ?? [];
    if (base !== null) await this.requireSeen(clipId, touched, base, origin);
    const revision = await this.nextRevision(clipId);
    const changes = undone ? reversed(edit.changes) : edit.changes;
    this.requireUnlocked(touched.map(({ of }) => of));
    const mine = eq(editPages.editId, editId);
    const there = sql`SELECT ${recordPages.bytes} FROM ${recordPages} WHERE ${recordPages.recordId} = ${editPages.recordId} AND ${recordPages.column} = ${editPages.column} AND ${recordPages.page} = ${editPages.page}`;
    const [known, at] = [
      sql`SELECT 1 FROM ${records} WHERE ${records.id} = ${editPages.recordId}`,
      editPages,
    ];
    await this.records.store([
      // What is there and what was there change places: after the records that come back, before those that go.
      this.database
        .update(editPages)
        .set({ other: sql`(${there})` })
        .where(mine),
      this.database
        .delete(recordPages)
        .where(
          sql`(${recordPages.recordId}, ${recordPages.column}, ${recordPages.page}) IN (SELECT ${at.recordId}, ${at.column}, ${at.page} FROM ${editPages} WHERE ${mine})`,
        ),
      ...changes.map((change) => this.records.put(change, clipId)),
      this.database.insert(recordPages).select(
        this.database
          .select({
            recordId: sql<string>`${at.recordId}`.as('record_id'),
            column: sql<string>`${at.column}`.as('column_name'),
            page: sql<number>`${at.page}`.as('page'),
            bytes: sql<Buffer>`${at.bytes}`.as('bytes'),
          })
          .from(editPages)
          .where(and(mine, sql`${at.bytes} IS NOT NULL`, sql`EXISTS (${known})`)),
      ),
      this.database
        .update(editPages)
        .set({ bytes: sql`${at.other}`, other: null })
        .where(mine),
      this.database.update(edits).set({ undone, revision, origin }).where(eq(edits.id, editId)),
      this.database.update(clips).set({ revision }).where(eq(clips.id, clipId)),
    ]);
    return this.announce(clipId, changes, await this.pagesOf(editId), revision);
  }

  /** The pages that an edit has changed, as they are now; where they are too much to be told, the records they are of. */
  private async pagesOf(editId: number): Promise<ToldPage[] | string[]> {
    const mine = eq(editPages.editId, editId);
    const now = and(
      eq(recordPages.recordId, editPages.recordId),
      eq(recordPages.column, editPages.column),
      eq(recordPages.page, editPages.page),
    );
    const [{ bytes }] = await this.database
      .select({ bytes: sql<number>`coalesce(sum(length(${recordPages.bytes})), 0) + 100 * count(*)` })
      .from(editPages)
      .leftJoin(recordPages, now)
      .where(mine);
    if (bytes > mostTold) {
      const ids = await this.database.selectDistinct({ id: editPages.recordId }).from(editPages).where(mine);
      return ids.map(({ id }) => id);
    }
    return this.database
      .select({
        id: editPages.recordId,
        column: editPages.column,
        page: editPages.page,
        bytes: recordPages.bytes,
      })
      .from(editPages)
      .leftJoin(recordPages, now)
      .where(mine);
  }

  private statement(change: Change, clipId: string): Statement {
    if (!isPage(change)) return this.records.put(change, clipId);
    return this.records.putPage(change.id, change.column, change.page, change.after);
  }

  /** Tells everyone what has changed; of records whose pages are too much to tell, their ids. */
  private async announce(
    clipId: string,
    changes: readonly RecordChange[],
    pages: readonly ToldPage[] | readonly string[],
    revision: number,
  ): Promise<ClipChange> {
    const [clip] = await this.database
      .select({ projectId: clips.projectId })
      .from(clips)
      .where(eq(clips.id, clipId));
    const told = pages.filter(
      (page): page is ToldPage => typeof page !== 'string' && !isFetched(page.column),
    );
    const much = told.reduce((sum, { bytes }) => sum + (bytes?.length ?? 0), 0) > mostTold;
    const stale = much ? told.map(({ id }) => id) : pages.filter((page) => typeof page === 'string');
    const change: ClipChange = {
      clipId,
      records: changes.map(({ kind, id, after }) => ({ kind, id, view: after && kindOf(kind).read(after) })),
      pages: much
        ? []
        : told.map(({ bytes, ...page }) => ({ ...page, bytes: bytes && bytes.toString('base64') })),
      stale: [...new Set(stale)],
      history: await this.history(clipId),
      revision,
    };
    if (clip) this.hub.tell(clip.projectId, { type: 'change', change });
    return change;
  }
}
