import { SampleState, type FrameTimes } from '@lurn/core';
import type { TrackSamples } from '../state/track-samples';
import { frameAtShare, middleShareOf } from '../state/clip-times';

/**
 * Draws one track's lane: a bar where it was found, lower and paler where it was less sure; a diamond where it was
 * placed by hand; stripes where it was bridged; a cross where it was lost. Shape tells it as well as shade. Where
 * frames are narrower than a pixel the worst of those that share it shows.
 */
export function drawLane(
  canvas: HTMLCanvasElement,
  samples: TrackSamples,
  times: FrameTimes,
  colour: string,
): void {
  const ratio = window.devicePixelRatio;
  const width = Math.max(1, Math.round(canvas.clientWidth * ratio));
  const height = Math.max(1, Math.round(canvas.clientHeight * ratio));
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d');
  if (!c) return;
  const { frames } = samples;
  const columns = times.starts ? width : Math.min(frames, width);
  const step = width / columns;
  const middle = height / 2;
  const firstFrame = (column: number): number =>
    column === columns ? frames : frameAtShare(times, column / columns);
  // Frames that are marked: once each, however many columns they take.
  const placed = new Set<number>();
  const lost = new Set<number>();
  c.fillStyle = colour;
  for (let column = 0; column < columns; column++) {
    const first = firstFrame(column);
    const end = Math.max(first + 1, firstFrame(column + 1));
    const seen = new Map<number, number>();
    let sure = 1;
    for (let k = first; k < end; k++) {
      const state = samples.state(k);
      seen.set(state, k);
      if (state === SampleState.tracked) sure = Math.min(sure, samples.confidence(k));
    }
    const x = Math.round(column * step);
    const w = Math.max(1, Math.round((column + 1) * step) - x);
    const worth = Math.max(0, (sure - 0.5) * 2);
    const bar = (share: number, alpha: number): void => {
      c.globalAlpha = alpha;
      c.fillRect(x, middle - (height * share) / 2, w, height * share);
    };
    const [key, gap] = [seen.get(SampleState.placed), seen.get(SampleState.lost)];
    if (key !== undefined) placed.add(key);
    if (gap !== undefined) lost.add(gap);
    else if (seen.has(SampleState.bridged)) {
      if (column % 2 === 0) bar(0.2, 0.6);
    } else if (seen.has(SampleState.tracked)) bar(0.25 + 0.35 * worth, 0.25 + 0.65 * worth);
    else if (seen.has(SampleState.placed)) bar(0.6, 0.9);
  }
  c.globalAlpha = 1;
  const r = 4.2 * ratio;
  c.strokeStyle = '#ef7a63';
  c.lineWidth = 1.8 * ratio;
  c.beginPath();
  for (const frame of lost) {
    const x = width * middleShareOf(times, frame);
    c.moveTo(x - r * 0.7, middle - r * 0.7);
    c.lineTo(x + r * 0.7, middle + r * 0.7);
    c.moveTo(x + r * 0.7, middle - r * 0.7);
    c.lineTo(x - r * 0.7, middle + r * 0.7);
  }
  c.stroke();
  c.strokeStyle = '#10171b';
  c.lineWidth = ratio;
  c.beginPath();
  for (const frame of placed) {
    const x = width * middleShareOf(times, frame);
    c.moveTo(x, middle - r);
    c.lineTo(x + r, middle);
    c.lineTo(x, middle + r);
    c.lineTo(x - r, middle);
    c.closePath();
  }
  c.fill();
  c.stroke();
}
