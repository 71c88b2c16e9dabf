import { eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/database.js';
import { editPages, edits } from '../database/schema.js';
import type { Change, PageChange, RecordChange } from './change.js';
import { touches } from './touches.js';

/** Changes as edits of the first version have them: pages among them, in base64. */
type OldChange =
  | { kind: 'track'; id: string; before: object | null; after: object | null }
  | { kind: 'page'; trackId: string; page: number; before: string | null; after: string | null }
  | { kind: 'steady'; before: object; after: object };

/** Brings edits of the first version up to date: their pages go where pages of edits lie, and what they touch is told. */
export async function updateOldEdits(database: Database): Promise<void> {
  const old = await database.select({ id: edits.id }).from(edits).where(isNull(edits.touches));
  // One at a time: an old edit may hold the samples of many tracks.
  for (const { id } of old) {
    const [{ clipId, undone, changes }] = await database.select().from(edits).where(eq(edits.id, id));
    const today = (changes as unknown as OldChange[]).map((change) => ofToday(change, clipId));
    const whole = today.filter((change): change is RecordChange => !('column' in change));
    const pages = today.filter((change): change is PageChange => 'column' in change);
    const kept = pages.map((change) => (undone ? change.after : change.before));
    const bytes = JSON.stringify(whole).length + kept.reduce((sum, page) => sum + (page?.length ?? 0), 0);
    await database.batch([
      database
        .update(edits)
        .set({ changes: whole, touches: touches(today), bytes })
        .where(eq(edits.id, id)),
      ...pages.map(({ id: recordId, column, page }, i) =>
        database.insert(editPages).values({ editId: id, recordId, column, page, bytes: kept[i] }),
      ),
    ]);
  }
}

function ofToday(change: OldChange, clipId: string): Change {
  if (change.kind === 'track') return change;
  if (change.kind === 'steady') return { ...change, id: clipId };
  const [before, after] = [change.before, change.after].map((text) =>
    text === null ? null : Buffer.from(text, 'base64'),
  );
  return { kind: 'track', id: change.trackId, column: 'samples', page: change.page, before, after };
}
