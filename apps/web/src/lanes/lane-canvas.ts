import { SampleState, type Samples } from '@lurn/core';

/**
 * Draws one track's lane: a bar where it was found, lower and paler where it was less sure; a diamond where it was
 * placed by hand; stripes where it was bridged; a cross where it was lost. Shape tells it as well as shade. Where
 * frames are narrower than a pixel the worst of those that share it shows.
 */
export function drawLane(canvas: HTMLCanvasElement, samples: Samples, colour: string): void {
  const ratio = window.devicePixelRatio;
  const width = Math.max(1, Math.round(canvas.clientWidth * ratio));
  const height = Math.max(1, Math.round(canvas.clientHeight * ratio));
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d');
  if (!c) return;
  const { frames, state, confidence } = samples;
  const columns = Math.min(frames, width);
  const step = width / columns;
  const middle = height / 2;
  const placed: number[] = [];
  const lost: number[] = [];
  c.fillStyle = colour;
  for (let column = 0; column < columns; column++) {
    const first = Math.floor((column * frames) / columns);
    const end = Math.floor(((column + 1) * frames) / columns);
    const seen = new Set<number>();
    let sure = 1;
    for (let k = first; k < end; k++) {
      seen.add(state[k]);
      if (state[k] === SampleState.tracked) sure = Math.min(sure, confidence[k]);
    }
    const x = Math.round(column * step);
    const w = Math.max(1, Math.round((column + 1) * step) - x);
    const worth = Math.max(0, (sure - 0.5) * 2);
    const bar = (share: number, alpha: number): void => {
      c.globalAlpha = alpha;
      c.fillRect(x, middle - (height * share) / 2, w, height * share);
    };
    if (seen.has(SampleState.placed)) placed.push((column + 0.5) * step);
    if (seen.has(SampleState.lost)) lost.push((column + 0.5) * step);
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
  for (const x of lost) {
    c.moveTo(x - r * 0.7, middle - r * 0.7);
    c.lineTo(x + r * 0.7, middle + r * 0.7);
    c.moveTo(x + r * 0.7, middle - r * 0.7);
    c.lineTo(x - r * 0.7, middle + r * 0.7);
  }
  c.stroke();
  c.strokeStyle = '#10171b';
  c.lineWidth = ratio;
  c.beginPath();
  for (const x of placed) {
    c.moveTo(x, middle - r);
    c.lineTo(x + r, middle);
    c.lineTo(x, middle + r);
    c.lineTo(x - r, middle);
    c.closePath();
  }
  c.fill();
  c.stroke();
}
