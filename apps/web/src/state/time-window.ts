import { create } from 'zustand';

/** The part of the clip that lanes and curves show, as shares of its length. */
export interface TimeWindow {
  from: number;
  to: number;
}

export const wholeClip: TimeWindow = { from: 0, to: 1 };

export const useTimeWindow = create<TimeWindow>(() => wholeClip);

/** Where a share of the clip lies in the window, 0 at its left edge and 1 at its right. */
export const inWindow = ({ from, to }: TimeWindow, share: number): number => (share - from) / (to - from);

/** The share of the clip that lies there. */
export const fromWindow = ({ from, to }: TimeWindow, at: number): number => from + at * (to - from);

/** A window that lies within the clip. */
function kept(from: number, width: number): TimeWindow {
  const start = Math.min(Math.max(from, 0), 1 - width);
  return { from: start, to: start + width };
}

/** Shows more or less of the clip; what is at `at` in the window stays there. `least` is the least share shown. */
export function zoomTime(window: TimeWindow, at: number, factor: number, least: number): TimeWindow {
  const width = Math.min(Math.max((window.to - window.from) / factor, Math.min(least, 1)), 1);
  return kept(fromWindow(window, at) - at * width, width);
}

/** Moves the window by a share of itself. */
export const panTime = (window: TimeWindow, by: number): TimeWindow =>
  kept(window.from + by * (window.to - window.from), window.to - window.from);

/** Moves the window as little as need be for a share of the clip to lie in it. */
export function windowWith(window: TimeWindow, share: number): TimeWindow {
  const width = window.to - window.from;
  if (share >= window.from && share <= window.to) return window;
  return kept(share - width / 2, width);
}
