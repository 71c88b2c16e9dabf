import type { ClosedSpline, SplineKnot } from '../geometry/closed-spline.js';
import type { Point } from '../geometry/mat3.js';
import type { Quad } from '../geometry/quad.js';
import { regionOn, type HoldOut, type Region, type SplineKey } from '../track/region/region.js';
import { FormatError } from './format-error.js';

const isFinite = (...values: unknown[]): boolean => values.every(Number.isFinite);

/**
 * A region as project files, recipes and track files have it; handles of knots, hold-outs, the quad and the centre may be left
 * out. Throws a FormatError that names the track.
 */
export function readRegion(given: unknown, name: string): Region {
  const wrong = (what: string): FormatError => new FormatError(`Region "${name}": ${what}`);
  if (typeof given !== 'object' || given === null) throw wrong('it is an object.');
  const { frame, centre, outlines, holdOuts = [], quad } = given as Partial<Record<keyof Region, unknown>>;
  const splineIn = (value: unknown): ClosedSpline => {
    const knots = (value as { knots?: unknown } | null)?.knots;
    if (
      !Array.isArray(knots) ||
      !(knots as (Partial<SplineKnot> | null)[]).every((k) => isFinite(k?.x, k?.y))
    )
      throw wrong('an outline is a list of knots with x and y.');
    if (knots.length < 3) throw wrong('an outline takes three points or more.');
    return {
      knots: (knots as SplineKnot[]).map(({ x, y, inX = 0, inY = 0, outX = 0, outY = 0 }) => ({
        ...{ x, y },
        ...{ inX, inY, outX, outY },
      })),
    };
  };
  if (!Number.isInteger(frame)) throw wrong('"frame" is the frame that it was drawn on.');
  if (!Array.isArray(outlines) || outlines.length === 0) throw wrong('"outlines" are a list of one or more.');
  if (!Array.isArray(holdOuts)) throw wrong('"holdOuts" are a list.');
  const isPlace = (p: unknown): p is Point => isFinite((p as Point | null)?.x, (p as Point | null)?.y);
  if (quad !== undefined && !(Array.isArray(quad) && quad.length === 4 && quad.every(isPlace)))
    throw wrong('its "quad" is a list of four corners with x and y.');
  const keys = (outlines as { frame?: unknown; splines?: unknown }[]).map((one) => {
    if (!Number.isInteger(one?.frame) || !Array.isArray(one.splines) || one.splines.length === 0)
      throw wrong('each of "outlines" has a "frame" and a list of "splines".');
    return { frame: one.frame as number, splines: one.splines.map(splineIn) };
  });
  const plain = regionOn(frame as number, keys[0].splines, quad as Quad | undefined);
  if (centre !== undefined && !isPlace(centre)) throw wrong('its "centre" has x and y.');
  return {
    ...plain,
    centre: centre ?? plain.centre,
    outlines: keys.sort((a, b) => a.frame - b.frame),
    holdOuts: (holdOuts as Partial<Record<keyof HoldOut, unknown>>[]).map((one) => {
      const { frame: on, spline, trackId, keys } = one ?? {};
      if (!Number.isInteger(on) || (trackId !== undefined && typeof trackId !== 'string'))
        throw wrong(
          'each of "holdOuts" has a "frame", a "spline" and the "trackId" that carries it, if one does.',
        );
      if (
        keys !== undefined &&
        !(
          Array.isArray(keys) &&
          (keys as (Partial<SplineKey> | null)[]).every((key) => Number.isInteger(key?.frame))
        )
      )
        throw wrong('the "keys" of a hold-out are a list, each with a "frame" and a "spline".');
      const keyed = (keys as Partial<SplineKey>[] | undefined)
        ?.map((key) => ({ frame: key.frame as number, spline: splineIn(key.spline) }))
        .sort((a, b) => a.frame - b.frame);
      return {
        ...{ frame: on as number, spline: splineIn(spline) },
        ...(trackId !== undefined && { trackId }),
        ...(keyed && keyed.length > 0 && { keys: keyed }),
      };
    }),
  };
}
