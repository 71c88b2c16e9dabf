import type { ClipCard } from '@lurn/contract';
import { framesPerSecond, parseFrameRate, SampleState, type Sample } from '@lurn/core';

/** Minutes, seconds and hundredths. */
export function clock(seconds: number): string {
  const s = Math.max(0, seconds);
  return `${Math.floor(s / 60)}:${(s % 60).toFixed(2).padStart(5, '0')}`;
}

/** A rate as people say it: 25/s, 29.97/s; where frames come unevenly, the mean. */
export function spokenRate({
  frameRate,
  uneven,
  frames,
  seconds,
}: Pick<ClipCard, 'frameRate' | 'uneven' | 'frames' | 'seconds'>): string {
  if (uneven) return `uneven, ${Number((frames / seconds).toFixed(2))}/s on average`;
  return `${Number(framesPerSecond(parseFrameRate(frameRate)).toFixed(3))}/s`;
}

export function bytes(count: number): string {
  const units = ['B', 'kB', 'MB', 'GB'];
  let n = count;
  let unit = 0;
  while (n >= 1000 && unit < units.length - 1) {
    n /= 1000;
    unit++;
  }
  return `${n < 10 && unit > 0 ? n.toFixed(1) : Math.round(n)} ${units[unit]}`;
}

export const percent = (factor: number, digits = 1): string => `${(100 * factor).toFixed(digits)} %`;

/** A track on one frame: how sure it is or why it is not known, place in pixels, turn, size. */
export function sampleInWords(sample: Sample | null): string {
  if (!sample) return 'not followed here';
  const { x, y, rotation, scale, confidence, state } = sample;
  const { lost, placed, bridged } = SampleState;
  if (state === lost) return 'lost here';
  const how = state === placed ? 'key' : state === bridged ? 'bridged' : `${Math.round(100 * confidence)} %`;
  const turn = `${((180 / Math.PI) * rotation).toFixed(1)}°`.replace('-', '−');
  return `${how} · ${x.toFixed(1)}, ${y.toFixed(1)} · ${turn} · ${scale.toFixed(3)}×`;
}

/** A length of time as people say it. */
export const duration = (seconds: number): string =>
  seconds < 1.5 ? 'a moment' : seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`;

/** What is left of a job that began at `startedAt`, in words; null as long as nothing can be said. */
export function timeLeft(startedAt: string, done: number, total: number): string | null {
  const spent = (Date.now() - Date.parse(startedAt)) / 1000;
  if (done < 2 || total === 0 || spent < 0.5) return null;
  const left = (spent / done) * (total - done);
  return `${duration(left)} left`;
}
