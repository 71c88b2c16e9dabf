import { evenTimes, framesPerSecond, unevenTimes, type FrameRate, type FrameTimes } from '@lurn/core';
import type { Clip } from './clip.js';

/** Every frame of a clip: its timestamp, and whether decoding can start there. */
export interface ClipIndex {
  /** Seconds to a tick, as a fraction. */
  timeBase: { numerator: number; denominator: number };
  /** Timestamps in ticks, in the order shown. */
  pts: Float64Array;
  /** 1 for key frames. */
  key: Uint8Array;
}

export const frameTime = (index: ClipIndex, frame: number): number =>
  (index.pts[frame] * index.timeBase.numerator) / index.timeBase.denominator;

/** Timestamps are rounded to milliseconds in some containers. */
const rounding = 0.0011;

/** Whether frames keep to no even beat, beyond what rounding of timestamps makes. */
export function isVariable(index: ClipIndex, rate: FrameRate): boolean {
  const start = frameTime(index, 0);
  const length = rate.denominator / rate.numerator;
  return index.pts.some((_, i) => Math.abs(frameTime(index, i) - start - i * length) > rounding);
}

/** What is told of a clip's timing by its headers. */
type Timing = Pick<Clip, 'frameRate' | 'pictureDuration'>;

/**
 * Seconds from a frame's beginning to the end of another. The last frame lasts as long as the stream says; where it does
 * not, as long as the one before.
 */
export function timeSpan(index: ClipIndex, first: number, last: number, clip: Timing): number {
  return (
    (last + 1 < index.pts.length ? frameTime(index, last + 1) : endTime(index, clip)) -
    frameTime(index, first)
  );
}

/** When the last frame ends. */
function endTime(index: ClipIndex, { frameRate, pictureDuration }: Timing): number {
  const end = index.pts.length - 1;
  const last = frameTime(index, end);
  const told = frameTime(index, 0) + (pictureDuration ?? 0);
  if (told > last + rounding) return told;
  return last + (end > 0 ? last - frameTime(index, end - 1) : 1 / framesPerSecond(frameRate));
}

/** When a clip's frames are shown. */
export function frameTimes(index: ClipIndex, clip: Timing): FrameTimes {
  const frames = index.pts.length;
  if (!isVariable(index, clip.frameRate)) return evenTimes(frames, framesPerSecond(clip.frameRate));
  const start = frameTime(index, 0);
  const starts = Float64Array.from(
    { length: frames + 1 },
    (_, k) => (k < frames ? frameTime(index, k) : endTime(index, clip)) - start,
  );
  // Without timestamps that rise there is nothing to go by but the rate.
  const rises = starts[frames] > 0 && starts.every((t, k) => k === 0 || t >= starts[k - 1]);
  return rises ? unevenTimes(starts) : evenTimes(frames, framesPerSecond(clip.frameRate));
}

/** The last key frame at or before `frame`; 0 when there is none. */
export function keyAtOrBefore(index: ClipIndex, frame: number): number {
  let key = frame;
  while (key > 0 && !index.key[key]) key--;
  return key;
}

/** What ffmpeg's `showinfo` filter says of one frame. */
export interface ShownFrame {
  pts: number;
  key: boolean;
}

/** Reads one line of `showinfo`; null when the line is about something else. */
export function parseShownFrame(line: string): ShownFrame | null {
  const match = /\bn:\s*\d+ pts:\s*(-?\d+|NOPTS)\b.*\biskey:(\d)/.exec(line);
  if (!match) return null;
  return { pts: match[1] === 'NOPTS' ? NaN : Number(match[1]), key: match[2] === '1' };
}

/** The clock that `showinfo` counts in, from the line it writes at the start. */
export function parseTimeBase(line: string): ClipIndex['timeBase'] | null {
  const match = /config in time_base: (\d+)\/(\d+)/.exec(line);
  return match ? { numerator: Number(match[1]), denominator: Number(match[2]) } : null;
}

/** Collects an index from lines of `showinfo` as they come. */
export class IndexBuilder {
  private readonly pts: number[] = [];
  private readonly key: number[] = [];
  private timeBase: ClipIndex['timeBase'] | null = null;

  get frames(): number {
    return this.pts.length;
  }

  /** True when the line told of a frame. */
  take(line: string): boolean {
    this.timeBase ??= parseTimeBase(line);
    const shown = parseShownFrame(line);
    if (!shown) return false;
    this.pts.push(shown.pts);
    this.key.push(shown.key ? 1 : 0);
    return true;
  }

  build(): ClipIndex {
    return {
      timeBase: this.timeBase ?? { numerator: 1, denominator: 1 },
      pts: Float64Array.from(this.pts),
      key: Uint8Array.from(this.key),
    };
  }
}
