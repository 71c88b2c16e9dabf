import type { SteadyView } from '@lurn/contract';
import { steadyAsToday, steadyFault, SteadyRecord } from '@lurn/model';
import { eq } from 'drizzle-orm';
import { clips } from '../database/schema.js';
import type { RecordKind } from '../records/record-kind.js';

/** All that is chosen about steadying a clip: one record a clip, under the clip's own id, kept in the clip's row. */
export const steadyKind: RecordKind<SteadyView> = {
  description: SteadyRecord,
  columns: {},
  read: steadyAsToday,
  fault: steadyFault,
  store: (database, clipId, steady) => database.update(clips).set({ steady }).where(eq(clips.id, clipId)),
};
