import type { FrameTimes } from '@lurn/core';
import { shareOf } from '../state/clip-times';
import { inWindow, type TimeWindow } from '../state/time-window';

/** Where frames lie across a lane. */
export function across(window: TimeWindow, times: FrameTimes, first: number, last: number) {
  const [from, to] = [inWindow(window, shareOf(times, first)), inWindow(window, shareOf(times, last + 1))];
  return { left: `${100 * from}%`, width: `${100 * (to - from)}%` };
}
