import { TrackPatch, type TrackView } from '@lurn/contract';
import { defaultFollowOptions, differingSamples, pageLength, Samples, shapeOf } from '@lurn/core';
import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { differingFields, type PackedColumn, type RecordKind } from '../records/record-kind.js';

const { template, search, model, analysis, below, threshold, longestGap } = defaultFollowOptions;
export const followDefaults = {
  template,
  search,
  shape: shapeOf(model),
  ...analysis,
  below,
  threshold,
  longestGap,
};

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

/** A track as it was kept, with defaults for what older versions did not know and their name of a filter. */
function read(kept: object): TrackView {
  const view = { ...followDefaults, offsets: [], accepted: [], region: null, ...kept };
  const filter = (view.filter as string) === 'enhance' ? 'local-contrast' : view.filter;
  return { ...view, filter } as unknown as TrackView;
}

export const trackKind: RecordKind<TrackView> = {
  columns: { [samplesColumn]: samplePages },
  read,
  parts: differingFields,
  copy: (view, id, clipId) => ({ ...view, id, clipId }),
  check,
};

/** What can be chosen of a track is checked as when it is chosen; the rest here. */
async function check(given: unknown): Promise<boolean> {
  if (typeof given !== 'object' || given === null) return false;
  const track = read(given);
  if (typeof track.id !== 'string' || !Number.isInteger(track.position)) return false;
  const { name, hidden, locked, used, offsets, accepted, region } = track;
  const boxes = { template: track.template, search: track.search };
  const seen = { shape: track.shape, channel: track.channel, filter: track.filter, fields: track.fields };
  const gaps = { below: track.below, threshold: track.threshold, longestGap: track.longestGap };
  const patch = plainToInstance(TrackPatch, {
    ...{ name, hidden, locked, used, accepted },
    ...(region && { region: { outlines: region.outlines, holdOuts: region.holdOuts, quad: region.quad } }),
    ...boxes,
    ...seen,
    ...gaps,
  });
  return (
    typeof name === 'string' &&
    (await validate(patch)).length === 0 &&
    (region ? isRegion(track) : track.kind === 'point') &&
    Array.isArray(offsets) &&
    offsets.every((o) => [o?.frame, o?.x, o?.y].every(Number.isFinite))
  );
}

/** What a patch does not tell of a region. */
function isRegion({ kind, region }: TrackView): boolean {
  const { frame, centre, outlines, quad } = region as NonNullable<TrackView['region']>;
  return (
    kind === 'region' &&
    Number.isInteger(frame) &&
    [centre?.x, centre?.y].every(Number.isFinite) &&
    Array.isArray(outlines) &&
    Array.isArray(quad)
  );
}
