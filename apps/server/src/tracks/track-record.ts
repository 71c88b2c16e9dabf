import type { TrackView } from '@lurn/contract';
import { differingSamples, pageLength, Samples } from '@lurn/core';
import { trackAsToday, TrackRecord } from '@lurn/model';
import type { PackedColumn, RecordKind } from '../records/record-kind.js';

/** The column of a track's samples. */
export const samplesColumn = 'samples';

/** A page of samples as it is stored; null when it is empty. */
export function pageOf(samples: Samples, page: number): Buffer | null {
  const bytes = samples.packPage(page);
  return bytes && Buffer.from(bytes);
}

const samplePages: PackedColumn = {
  differing: (page, one, other) => differingSamples(one, other).map((k) => page * pageLength + k),
  isPage(page, bytes, frames) {
    if (page * pageLength >= frames) return false;
    try {
      new Samples(pageLength).unpackPage(0, bytes);
      return true;
    } catch {
      return false;
    }
  },
};

export const trackKind: RecordKind<TrackView> = {
  description: TrackRecord,
  columns: { [samplesColumn]: samplePages },
  read: trackAsToday,
  fault: ({ kind, region }) =>
    (kind === 'region') === (region !== null) ? null : 'A region has an outline, a point has none.',
};
