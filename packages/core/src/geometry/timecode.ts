import { framesPerSecond, type FrameRate } from './frame-rate.js';

const spelt = /^(\d{2}):(\d{2}):(\d{2})([:;.])(\d{2,3})$/;

/**
 * The timecode so many frames after another, as SMPTE ST 12-1 counts: after 24 hours from nothing again; with a semicolon or a
 * dot before its frames it drops numbers, two of thirty in every minute but each tenth. Null where it is no timecode of such a
 * rate.
 */
export function timecodeAfter(timecode: string, frames: number, rate: FrameRate): string | null {
  const [, hours, minutes, seconds, mark, frame] = spelt.exec(timecode) ?? [];
  if (!mark) return null;
  const nominal = Math.round(framesPerSecond(rate));
  if (Number(frame) >= nominal || Number(seconds) > 59 || Number(minutes) > 59) return null;
  const dropped = mark === ':' || nominal % 30 !== 0 ? 0 : (2 * nominal) / 30;
  const aMinute = 60 * nominal - dropped;
  const tenMinutes = 10 * aMinute + dropped;
  const minute = 60 * Number(hours) + Number(minutes);
  const counted =
    minute * 60 * nominal +
    Number(seconds) * nominal +
    Number(frame) -
    dropped * (minute - Math.floor(minute / 10)) +
    frames;
  const day = 144 * tenMinutes;
  const at = ((counted % day) + day) % day;
  const [tens, rest] = [Math.floor(at / tenMinutes), at % tenMinutes];
  // The first minute of ten is whole.
  const skipped = rest < 60 * nominal ? 0 : dropped * (1 + Math.floor((rest - 60 * nominal) / aMinute));
  const number = tens * 600 * nominal + rest + skipped;
  const two = (value: number): string => `${value}`.padStart(2, '0');
  const total = Math.floor(number / nominal);
  return `${two(Math.floor(total / 3600))}:${two(Math.floor(total / 60) % 60)}:${two(total % 60)}${mark}${two(number % nominal)}`;
}
