import { SteadyView } from '@lurn/contract';
import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { eq } from 'drizzle-orm';
import { clips } from '../database/schema.js';
import { differingFields, type RecordKind } from '../records/record-kind.js';

/** What older versions, which had one way of smoothing and one model, nothing done by hand and every frame read at once, did not know. */
const evenAndWhole = {
  kind: 'even',
  model: 'auto',
  spans: [] as SteadyView['spans'],
  keys: [] as SteadyView['keys'],
  rollingShutter: { mode: 'auto', share: 0 },
  edge: 'black',
  unfilled: 'mirror',
  resampling: 'bicubic',
  strength: { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 },
} satisfies Partial<SteadyView>;

/** What is chosen about steadying a clip of so many frames before anybody has chosen anything. */
export const freshSteady = (frames: number): SteadyView => ({
  mode: 'hold',
  smoothSeconds: 1,
  ...evenAndWhole,
  channels: { x: true, y: true, rotation: true, scale: true },
  referenceFrame: 0,
  range: { first: 0, last: Math.max(0, frames - 1) },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
});

/** All that is chosen about steadying a clip: one record a clip, under the clip's own id, kept in the clip's row. */
export const steadyKind: RecordKind<SteadyView> = {
  columns: {},
  read: (kept) => ({ ...evenAndWhole, ...kept }) as SteadyView,
  parts: differingFields,
  copy: (view) => view,
  async check(view, frames) {
    if (typeof view !== 'object' || view === null) return false;
    const steady = plainToInstance(SteadyView, { ...evenAndWhole, ...view });
    if ((await validate(steady)).length > 0) return false;
    const { range, referenceFrame, within } = steady;
    if (within && (within.left >= within.right || within.top >= within.bottom)) return false;
    return range.first <= range.last && range.last < frames && referenceFrame < frames;
  },
  store: (database, clipId, steady) => database.update(clips).set({ steady }).where(eq(clips.id, clipId)),
};
