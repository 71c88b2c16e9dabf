import {
  FormatError,
  regionOn,
  type HoldOut,
  type OutlineKey,
  type Quad,
  type Region,
  type SplineKey,
} from '@lurn/core';
import { Frame, Part, Parts, Reference } from './fields.js';
import { read } from './read.js';
import { PlaceRecord, SplineRecord } from './spline.js';

/** Where a region is looked for from a frame on: outlines as they lie on the frame that it was drawn on. */
export class OutlineKeyRecord implements OutlineKey {
  @Frame() frame!: number;
  @Parts(() => SplineRecord, { least: 1, most: 20 }) splines!: SplineRecord[];
}

/** A spline as it is from a frame on, and on the way to the next. */
export class SplineKeyRecord implements SplineKey {
  @Frame() frame!: number;
  @Part(() => SplineRecord) spline!: SplineRecord;
}

/** What never counts: a spline as it lies on a frame, and the track that carries it; none where it stays. */
export class HoldOutRecord implements HoldOut {
  @Frame() frame!: number;
  @Part(() => SplineRecord) spline!: SplineRecord;

  @Reference({
    optional: true,
    description: 'The track that it rides on; it stays where it is when left out',
  })
  trackId?: string;

  @Parts(() => SplineKeyRecord, {
    ...{ most: 500, optional: true },
    description:
      'What it looks like on other frames, as it would lie on its own; knots go from one to the next',
  })
  keys?: SplineKeyRecord[];
}

/** A flat thing that is followed whole. All of it is in clip pixels of the frame that it was drawn on. */
export class RegionRecord {
  @Frame({ description: 'The frame that it was drawn on' }) frame!: number;

  @Part(() => PlaceRecord, {
    optional: true,
    description: 'Its place there; the middle of the box about it when left out',
  })
  centre?: PlaceRecord;

  @Parts(() => OutlineKeyRecord, { least: 1, most: 500, description: 'Where to look, from each frame on' })
  outlines!: OutlineKeyRecord[];

  @Parts(() => HoldOutRecord, { most: 50, description: 'What never counts' })
  holdOuts: HoldOutRecord[] = [];

  @Parts(() => PlaceRecord, {
    ...{ least: 4, most: 4, optional: true },
    description: 'Its quad: upper left and right, lower right and left; the box about it when left out',
  })
  quad?: PlaceRecord[];
}

const byFrame = <T extends { frame: number }>(keys: readonly T[]): T[] =>
  [...keys].sort((a, b) => a.frame - b.frame);

/**
 * A region as project files, recipes and track files have it; handles of knots, hold-outs, the quad and the centre may be left
 * out. Throws a FormatError that names the track.
 */
export function readRegion(given: unknown, name: string): Region {
  const named = `Region "${name}"`;
  const { frame, centre, outlines, holdOuts, quad } = read(RegionRecord, given, named);
  const keys = byFrame(outlines);
  const plain = regionOn(frame, keys[0].splines, quad as Quad | undefined);
  if (Object.values(plain.centre).some((v) => !Number.isFinite(v)))
    throw new FormatError(`${named}: its outlines lie nowhere.`);
  return {
    ...plain,
    centre: centre ?? plain.centre,
    outlines: keys,
    holdOuts: holdOuts.map(({ keys: keyed = [], ...one }) => ({
      ...one,
      ...(keyed.length > 0 && { keys: byFrame(keyed) }),
    })),
  };
}
