import type { ClipView } from '@lurn/contract';
import {
  durationOf,
  evenTimes,
  frameAt,
  framesPerSecond,
  parseFrameRate,
  startOf,
  unevenTimes,
  type FrameTimes,
} from '@lurn/core';

type Timed = Pick<ClipView, 'frames' | 'frameRate' | 'times'>;

const made = new WeakMap<number[], FrameTimes>();

/** When the frames of a clip are shown. */
export function timesOf({ frames, frameRate, times }: Timed): FrameTimes {
  if (!times) return evenTimes(frames, framesPerSecond(parseFrameRate(frameRate)));
  const known = made.get(times) ?? unevenTimes(Float64Array.from(times));
  made.set(times, known);
  return known;
}

/** How far along the clip a frame begins, 0 to 1: where frames come unevenly each takes the room of its length. */
export const shareOf = (times: FrameTimes, frame: number): number =>
  times.starts ? startOf(times, frame) / durationOf(times) : frame / times.frames;

/** How far along it the middle of a frame is. */
export const middleShareOf = (times: FrameTimes, frame: number): number =>
  (shareOf(times, frame) + shareOf(times, frame + 1)) / 2;

/** The frame that is so far along. */
export const frameAtShare = (times: FrameTimes, share: number): number =>
  times.starts
    ? frameAt(times, share * durationOf(times))
    : Math.min(Math.max(Math.floor(share * times.frames + 1e-6), 0), times.frames - 1);

/**
 * The frame shown after playing for so many seconds from one of a range, which is gone through again and again, or once:
 * then null when it is over.
 */
export function frameWhilePlaying(
  times: FrameTimes,
  { from, first, last, loop = true }: { from: number; first: number; last: number; loop?: boolean },
  seconds: number,
): number | null {
  const begin = startOf(times, first);
  const length = startOf(times, last + 1) - begin;
  const since = startOf(times, from) - begin + seconds;
  if (!loop && since >= length) return null;
  const along = since % length;
  // Half a microsecond on: a frame's own beginning must not fall before it.
  return Math.min(Math.max(frameAt(times, begin + along + 5e-7), first), last);
}
