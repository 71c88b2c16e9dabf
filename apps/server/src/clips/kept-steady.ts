import { KeepSteadyRequest, type KeptSteadyView } from '@lurn/contract';
import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { differingFields, type RecordKind } from '../records/record-kind.js';
import { steadyKind } from './steady-record.js';

/** Settings kept by a name: any number of records a clip. */
export const keptSteadyKind: RecordKind<KeptSteadyView> = {
  columns: {},
  read: (kept) => {
    const view = kept as KeptSteadyView;
    return { ...view, steady: steadyKind.read(view.steady) };
  },
  parts: differingFields,
  copy: (view, id, clipId) => ({ ...view, id, clipId }),
  async check(view, frames) {
    const { id, name, steady } = (view ?? {}) as Partial<KeptSteadyView>;
    const named = plainToInstance(KeepSteadyRequest, { name });
    return typeof id === 'string' && (await validate(named)).length === 0 && steadyKind.check(steady, frames);
  },
};
