import { ConflictException, Inject, Injectable } from '@nestjs/common';
import type { ClipChange, HistoryView } from '@lurn/contract';
import { and, desc, eq, asc, gt, isNull, ne, or } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import { DATABASE, type Database } from '../database/database.js';
import { clips, edits, pages, tracks } from '../database/schema.js';
import { EventHub } from '../events/event-hub.js';
import { meet, reversed, subjects, type Change } from './change.js';
import { editOrigin } from './edit-origin.js';

type Statement = BatchItem<'sqlite'>;

/** Every change a person makes to a clip goes through here: stored with its way back, then told to all. */
@Injectable()
export class EditsService {
  private readonly turns = new Map<string, Promise<unknown>>();
  /** Tracks that a job is writing to. */
  private readonly busy = new Set<string>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
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

  occupy(trackIds: readonly string[]): void {
    this.requireFree(trackIds);
    trackIds.forEach((id) => this.busy.add(id));
  }

  release(trackIds: readonly string[]): void {
    trackIds.forEach((id) => this.busy.delete(id));
  }

  requireFree(trackIds: readonly string[]): void {
    if (trackIds.some((id) => this.busy.has(id))) {
      throw new ConflictException('This track is being followed just now; stop that first.');
    }
  }

  /**
   * Applies changes and remembers them for undo. With `applied`, they have been stored already. An edit that comes a
   * second time, because its answer was lost, is not done again. Refuses one that would write over what another
   * window has done and its own has not seen yet.
   */
  async commit(
    clipId: string,
    label: string,
    changes: Change[],
    { applied = false } = {},
  ): Promise<ClipChange> {
    const { window: origin, base, key } = editOrigin();
    if (!applied && key !== null) {
      const [done] = await this.database.select().from(edits).where(eq(edits.key, key));
      if (done) return this.announce(clipId, done.changes, done.revision);
    }
    if (!applied && base !== null) await this.requireSeen(clipId, changes, base, origin);
    const revision = await this.nextRevision(clipId);
    const statements: Statement[] = applied ? [] : changes.map((change) => this.statement(change, clipId));
    const fresh = { clipId, label, undone: false, changes, revision, origin, key: applied ? null : key };
    statements.push(
      this.database.delete(edits).where(and(eq(edits.clipId, clipId), eq(edits.undone, true))),
      this.database.insert(edits).values(fresh),
      this.database.update(clips).set({ revision }).where(eq(clips.id, clipId)),
    );
    await this.store(statements);
    return this.announce(clipId, changes, revision);
  }

  /** Throws where another window's edit since `base` touches the same as these changes. */
  private async requireSeen(
    clipId: string,
    changes: readonly Change[],
    base: number,
    origin: string | null,
  ): Promise<void> {
    const others = origin === null ? undefined : or(isNull(edits.origin), ne(edits.origin, origin));
    const unseen = await this.database
      .select({ label: edits.label, changes: edits.changes })
      .from(edits)
      .where(and(eq(edits.clipId, clipId), gt(edits.revision, base), others))
      .orderBy(desc(edits.revision));
    if (unseen.length === 0) return;
    const own = changes.flatMap(subjects);
    const clash = unseen.find((edit) => meet(own, edit.changes.flatMap(subjects)));
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
      .select({ changes: edits.changes })
      .from(edits)
      .where(eq(edits.id, editId));
    const { window: origin, base } = editOrigin();
    if (base !== null) await this.requireSeen(clipId, edit.changes, base, origin);
    const revision = await this.nextRevision(clipId);
    const changes = undone ? reversed(edit.changes) : edit.changes;
    this.requireFree(
      changes.flatMap((c) => (c.kind === 'track' ? [c.id] : c.kind === 'page' ? [c.trackId] : [])),
    );
    await this.store([
      ...changes.map((change) => this.statement(change, clipId)),
      this.database.update(edits).set({ undone, revision, origin }).where(eq(edits.id, editId)),
      this.database.update(clips).set({ revision }).where(eq(clips.id, clipId)),
    ]);
    return this.announce(clipId, changes, revision);
  }

  /** All or nothing. */
  private async store(statements: Statement[]): Promise<void> {
    await this.database.batch(statements as [Statement, ...Statement[]]);
  }

  private statement(change: Change, clipId: string): Statement {
    switch (change.kind) {
      case 'steady':
        return this.database.update(clips).set({ steady: change.after }).where(eq(clips.id, clipId));
      case 'track':
        if (!change.after) return this.database.delete(tracks).where(eq(tracks.id, change.id));
        return this.database
          .insert(tracks)
          .values({ id: change.id, clipId, view: change.after })
          .onConflictDoUpdate({ target: tracks.id, set: { view: change.after } });
      case 'page': {
        const { trackId, page, after } = change;
        if (after === null)
          return this.database.delete(pages).where(and(eq(pages.trackId, trackId), eq(pages.page, page)));
        const bytes = Buffer.from(after, 'base64');
        return this.database
          .insert(pages)
          .values({ trackId, page, bytes })
          .onConflictDoUpdate({ target: [pages.trackId, pages.page], set: { bytes } });
      }
    }
  }

  private async announce(clipId: string, changes: readonly Change[], revision: number): Promise<ClipChange> {
    const [clip] = await this.database
      .select({ projectId: clips.projectId })
      .from(clips)
      .where(eq(clips.id, clipId));
    const change: ClipChange = {
      clipId,
      tracks: changes.flatMap((c) => (c.kind === 'track' && c.after ? [c.after] : [])),
      removedTracks: changes.flatMap((c) => (c.kind === 'track' && !c.after ? [c.id] : [])),
      pages: changes.flatMap((c) =>
        c.kind === 'page' ? [{ trackId: c.trackId, page: c.page, bytes: c.after }] : [],
      ),
      steady: changes.reduce<ClipChange['steady']>((last, c) => (c.kind === 'steady' ? c.after : last), null),
      history: await this.history(clipId),
      revision,
    };
    if (clip) this.hub.tell(clip.projectId, { type: 'change', change });
    return change;
  }
}
