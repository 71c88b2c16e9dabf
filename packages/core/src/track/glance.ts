import { identity, invert, multiply, type Mat3 } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import type { Grid } from './grid.js';
import { isAsBefore, type Match } from './match.js';
import {
  Ended,
  startAt,
  takeHold,
  walk,
  whereItEnded,
  type Exposure,
  type Fit,
  type Glimpse,
  type Hold,
} from './refine.js';

/** What a thorough look has found, and what of it is glanced at on the frames that follow. */
export interface Stance {
  match: Match;
  grid: Grid;
  /** How these pixels fitted by themselves, and what held them. */
  alike: Glimpse;
  hold: Hold;
  /** From the box as these pixels have it to the box as all of them have it, and back. */
  fromGrid: Mat3;
  toGrid: Mat3;
}

/** With less than this left, in pixels at the box's corner, a glance ends; on the lattice before it with more. */
const settled = 0.015;
const nearlySettled = 0.03;

/** A template with grain of more than this variance, squared grey levels, needs all the pixels it has. */
const leastGrain = 2;

/** What may be left over where all is as it was: medians are counted in quarters, and a frame may be smeared a little. */
const leftOver = ({ residual }: Glimpse): number => 1.3 * residual + 0.25;

/** All pixels are glanced at: nothing need be tried. */
const onAll = (match: Match): Stance => ({
  match,
  grid: match.look.template.full,
  alike: match.fit,
  hold: match.fit.hold,
  fromGrid: identity,
  toGrid: identity,
});

/**
 * Makes ready for glances at what was found in a picture. With `area`, the picture about it, only the runs that tell
 * most are glanced at, but for a grainy template, which needs all it has.
 */
export function takeStance(kernels: TrackKernels, match: Match, area: Area | null): Stance {
  const { fit, look, shape } = match;
  const { template } = look;
  const { runs } = template;
  if (!area || !runs.inRuns || template.grain > leastGrain) return onAll(match);
  startAt(kernels, area, fit.matrix, fit);
  const going = { close: true, sameLight: true, enough: settled };
  if (!walk(kernels, template, runs, shape, area, look.exposure, going)) return onAll(match);
  const alike = whereItEnded(kernels, runs, area, shape);
  const fromGrid = multiply(invert(alike.matrix), fit.matrix);
  const hold = takeHold(kernels, shape);
  return { match, grid: runs, alike, hold, fromGrid, toGrid: invert(fromGrid) };
}

/** What a glance has found; it can be relied on where all is as it was when the stance was taken. */
export interface Glance {
  fit: Fit;
  asBefore: boolean;
}

/**
 * Registers the pixels of a stance from about where they must be, held by what held them then. What it finds is never
 * surer than what the stance was taken from.
 */
export function glanceAt(
  kernels: TrackKernels,
  { match, grid, alike, hold, fromGrid, toGrid }: Stance,
  area: Area,
  start: Mat3,
  close: boolean,
  known: Exposure | null,
): Glance | null {
  const { fit, look, shape } = match;
  const { template } = look;
  const { full, lattice } = template;
  const go = (on: Grid, near: boolean, sameLight: boolean, enough: number) =>
    walk(kernels, template, on, shape, area, known, { close: near, sameLight, enough, hold });
  const onward = close && known !== null;
  startAt(kernels, area, multiply(start, toGrid), known, onward ? leftOver(alike) : 0);
  const byLattice = grid === full && lattice !== full;
  if (byLattice && !go(lattice, onward, false, nearlySettled)) return null;
  const ended = go(grid, byLattice || onward, byLattice, settled);
  if (ended === Ended.nowhere) return null;
  const seen = whereItEnded(kernels, grid, area, shape);
  const worse = (measure: 'score' | 'trusted' | 'believed'): number =>
    fit[measure] + Math.min(seen[measure] - alike[measure], 0);
  return {
    asBefore: ended === Ended.settled && isAsBefore(seen, alike, grid !== full),
    fit: {
      matrix: multiply(seen.matrix, fromGrid),
      gain: seen.gain,
      bias: seen.bias,
      residual: fit.residual,
      score: worse('score'),
      trusted: worse('trusted'),
      believed: worse('believed'),
      share: fit.share,
      balance: fit.balance,
      error: fit.error,
      parted: fit.parted,
      lag: fit.lag,
      slide: fit.slide,
      cause: fit.cause,
      hold: fit.hold,
      smear: null,
    },
  };
}
