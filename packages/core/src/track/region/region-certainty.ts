import { Reason } from '../sample-reason.js';

/** The expected error of the quad's corners, pixels, at which a fit is worth a half, and how fast that goes: four fifths at 0.25. */
const halfError = 0.67;
const errorSlope = 1.4;
/**
 * Cramér and Rao's bound knows of grain alone; what truth is off by is this many times as much, and something beside, which nine
 * fits in ten keep to (generated boards and screens in light, grain, blur and behind bars).
 */
const boundTimes = 3.5;
const leastError = 0.05;
/** Likeness at which a fit is worth a half, and how fast that goes. */
const halfLikeness = 0.5;
const likenessSlope = 0.06;
/** Where less of the region than this was looked at, it may be something else. */
const wantedOpen = 0.3;
const nearlyWhole = 0.75;

/** The expected error of the corners for what a registration takes its own for, pixels. */
export const expectedCornerError = (bound: number): number => boundTimes * bound + leastError;

/** What is left over may be so many times as much as usually; more, and something pulls. */
const mostExcess = 1.3;

/** How sure a region's place is, 0–1, and what takes most from that. */
export function regionVerdict(
  likeness: number,
  open: number,
  bound: number,
  excess: number,
): { confidence: number; reason: Reason } {
  const alike = 1 / (1 + Math.exp((halfLikeness - likeness) / likenessSlope));
  const exact = 1 / (1 + (expectedCornerError(bound) / halfError) ** errorSlope);
  const share = Math.min(open / wantedOpen, 1);
  const clean = Math.min(mostExcess / excess, 1);
  const confidence = alike * exact * share * clean;
  if (confidence >= 0.8) return { confidence, reason: Reason.none };
  if (alike < 0.5) return { confidence, reason: Reason.missing };
  if (open < nearlyWhole) return { confidence, reason: Reason.covered };
  return { confidence, reason: Math.min(alike, clean) < exact ? Reason.unlike : Reason.faint };
}
