import { curveNames, type Curves } from '../solve/motion.js';
import { eased } from './easing.js';

/**
 * What is done to a stretch of frames instead of the rest: `hold` holds still, `protect` leaves the move as it is, `even` goes
 * from where it begins to where it ends at one pace.
 */
export const spanKinds = ['hold', 'protect', 'even'] as const;
export type SpanKind = (typeof spanKinds)[number];

export interface SteadySpan {
  kind: SpanKind;
  /** Both included. */
  first: number;
  last: number;
  /** Frames before and after, over which it is gone over into. */
  ease: number;
}

/** How far a frame is within a span, 0 to 1. */
export function weightIn({ first, last, ease }: SteadySpan, frame: number): number {
  const outside = Math.max(first - frame, frame - last, 0);
  return outside === 0 ? 1 : eased(1 - outside / (ease + 1), 'ease');
}

/**
 * What is wanted of each channel once spans are heeded, one after another; `found` is the motion as it is. A span that is held
 * stands as its reference frame does, or, where that lies elsewhere, where it is in the mean: the least that has to be moved.
 * One that is gone through at one pace begins and ends as `ends` has it.
 */
export function withSpans(
  wanted: Curves,
  found: Curves,
  spans: readonly SteadySpan[],
  referenceFrame: number,
  ends: Curves = found,
): Curves {
  if (spans.length === 0) return wanted;
  const result = Object.fromEntries(curveNames.map((name) => [name, wanted[name].slice()])) as Curves;
  for (const span of spans)
    for (const name of curveNames) {
      const column = result[name];
      const source = (span.kind === 'even' ? ends : found)[name];
      const within = targetOf(span, name === 'scale' ? source.map(Math.log) : source, referenceFrame);
      for (let k = 0; k < column.length; k++) {
        const weight = weightIn(span, k);
        if (weight === 0) continue;
        if (name === 'scale') column[k] = Math.exp((1 - weight) * Math.log(column[k]) + weight * within(k));
        else column[k] += weight * (within(k) - column[k]);
      }
    }
  return result;
}

/** What a span wants of a channel on each frame. */
function targetOf(
  { kind, first, last }: SteadySpan,
  found: Float64Array,
  referenceFrame: number,
): (frame: number) => number {
  const end = found.length - 1;
  const [from, to] = [Math.min(Math.max(first, 0), end), Math.min(Math.max(last, 0), end)];
  if (kind === 'protect') return (k) => found[k];
  if (kind === 'even') {
    const pace = to > from ? (found[to] - found[from]) / (to - from) : 0;
    // Beyond its ends the pace goes on, so that it is gone into in passing.
    return (k) => found[from] + pace * (k - from);
  }
  if (referenceFrame >= from && referenceFrame <= to) return () => found[referenceFrame];
  let sum = 0;
  for (let k = from; k <= to; k++) sum += found[k];
  const mean = sum / (to - from + 1);
  return () => mean;
}
