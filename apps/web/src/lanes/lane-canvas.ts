import { SampleState, type FrameTimes } from '@lurn/core';
import { frameAtShare, middleShareOf, shareOf } from '../state/clip-times';
import type { TrackSamples } from '../state/track-samples';
import { fromWindow, inWindow, type TimeWindow } from '../state/time-window';

/**
 * Draws one track's lane: a bar where it was found, lower and paler where it was less sure; a diamond where it was
 * placed by hand; stripes where it was bridged; a cross where it was lost. Shape tells it as well as shade. Where
 * frames are narrower than a pixel the worst of those that share it shows.
 */
export function drawLane(
  canvas: HTMLCanvasElement,
  samples: TrackSamples,
  times: FrameTimes,
  window: TimeWindow,
  colour: string,
): void {
  const ratio = devicePixelRatio;
  const width = Math.max(1, Math.round(canvas.clientWidth * ratio));
  const height = Math.max(1, Math.round(canvas.clientHeight * ratio));
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d');
  if (!c) return;
  const middle = height / 2;
  const from = frameAtShare(times, window.from);
  const to = frameAtShare(times, window.to);
  const at = (share: number): number => width * inWindow(window, share);
  // Frames that are marked: once each, however many columns they take.
  const placed = new Set<number>();
  const lost = new Set<number>();
  c.fillStyle = colour;
  const cell = (first: number, end: number, left: number, right: number, odd: boolean): void => {
    // A bit for each state that is met.
    let seen = 0;
    let [key, gap] = [-1, -1];
    let sure = 1;
    for (let k = first; k < end; k++) {
      const state = samples.state(k);
      seen |= 1 << state;
      if (state === SampleState.placed) key = k;
      else if (state === SampleState.lost) gap = k;
      else if (state === SampleState.tracked) sure = Math.min(sure, samples.confidence(k));
    }
    const met = (state: SampleState): boolean => (seen & (1 << state)) !== 0;
    const x = Math.round(left);
    const w = Math.max(1, Math.round(right) - x);
    const bar = (share: number, alpha: number): void => {
      c.globalAlpha = alpha;
      c.fillRect(x, middle - (height * share) / 2, w, height * share);
    };
    if (key >= 0) placed.add(key);
    if (gap >= 0) lost.add(gap);
    else if (met(SampleState.bridged)) {
      if (odd) bar(0.2, 0.6);
    } else if (met(SampleState.tracked)) {
      const worth = Math.max(0, (sure - 0.5) * 2);
      bar(0.25 + 0.35 * worth, 0.25 + 0.65 * worth);
    } else if (met(SampleState.placed)) bar(0.6, 0.9);
  };
  if (to - from < width)
    for (let k = from; k <= to; k++)
      cell(k, k + 1, at(shareOf(times, k)), at(shareOf(times, k + 1)), k % 2 === 0);
  else
    for (let column = 0; column < width; column++) {
      const first = frameAtShare(times, fromWindow(window, column / width));
      const next = frameAtShare(times, fromWindow(window, (column + 1) / width));
      cell(first, Math.max(first + 1, next), column, column + 1, column % 4 < 2);
    }
  c.globalAlpha = 1;
  const r = 4.2 * ratio;
  c.strokeStyle = '#ef7a63';
  c.lineWidth = 1.8 * ratio;
  c.beginPath();
  for (const frame of lost) {
    const x = at(middleShareOf(times, frame));
    c.moveTo(x - r * 0.7, middle - r * 0.7);
    c.lineTo(x + r * 0.7, middle + r * 0.7);
    c.moveTo(x + r * 0.7, middle - r * 0.7);
    c.lineTo(x - r * 0.7, middle + r * 0.7);
  }
  c.stroke();
  c.strokeStyle = '#10171b';
  c.lineWidth = ratio;
  c.beginPath();
  for (const frame of placed) diamond(c, at(middleShareOf(times, frame)), middle, r);
  c.fill();
  c.stroke();
}

/** Adds a key's mark to the path. */
export function diamond(c: CanvasRenderingContext2D, x: number, y: number, r: number): void {
  c.moveTo(x, y - r);
  c.lineTo(x + r, y);
  c.lineTo(x, y + r);
  c.lineTo(x - r, y);
  c.closePath();
}
