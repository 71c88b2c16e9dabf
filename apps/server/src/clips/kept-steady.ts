import type { KeptSteadyView } from '@lurn/contract';
import { KeptSteadyRecord, steadyAsToday, steadyFault } from '@lurn/model';
import type { RecordKind } from '../records/record-kind.js';

/** Settings kept by a name: any number of records a clip. */
export const keptSteadyKind: RecordKind<KeptSteadyView> = {
  description: KeptSteadyRecord,
  columns: {},
  read: (kept) => {
    const view = kept as KeptSteadyView;
    return { ...view, steady: steadyAsToday(view.steady ?? {}) };
  },
  fault: ({ steady }, frames) => steadyFault(steady, frames),
};
