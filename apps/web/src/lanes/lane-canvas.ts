import { SampleState, type Samples } from '@lurn/core';

/**
 * Draws one track's lane: full-height bar where it was found, paler where it was less sure; a diamond where
 * it was placed by hand; stripes where it was bridged; a cross where it was lost. Shape tells it as well as shade.
 */
export function drawLane(canvas: HTMLCanvasElement, samples: Samples, colour: string): void {
  const ratio = window.devicePixelRatio;
  const width = Math.max(1, Math.round(canvas.clientWidth * ratio));
  const height = Math.max(1, Math.round(canvas.clientHeight * ratio));
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d');
  if (!c) return;
  const step = width / samples.frames;
  const middle = height / 2;
  for (let k = 0; k < samples.frames; k++) {
    const state = samples.state[k];
    if (state === SampleState.none) continue;
    const x = Math.round(k * step);
    const w = Math.max(1, Math.round((k + 1) * step) - x);
    const sure = samples.confidence[k];
    c.fillStyle = colour;
    if (state === SampleState.tracked) {
      c.globalAlpha = 0.25 + 0.65 * Math.max(0, (sure - 0.5) * 2);
      const tall = height * (0.25 + 0.35 * Math.max(0, (sure - 0.5) * 2));
      c.fillRect(x, middle - tall / 2, w, tall);
    } else if (state === SampleState.placed) {
      c.globalAlpha = 0.9;
      c.fillRect(x, middle - height * 0.3, w, height * 0.6);
    } else if (state === SampleState.bridged && k % 2 === 0) {
      c.globalAlpha = 0.6;
      c.fillRect(x, middle - height * 0.1, w, height * 0.2);
    }
  }
  c.globalAlpha = 1;
  for (let k = 0; k < samples.frames; k++) {
    const x = (k + 0.5) * step;
    const r = 4.2 * ratio;
    if (samples.state[k] === SampleState.placed) {
      c.fillStyle = colour;
      c.strokeStyle = '#10171b';
      c.lineWidth = ratio;
      c.beginPath();
      c.moveTo(x, middle - r);
      c.lineTo(x + r, middle);
      c.lineTo(x, middle + r);
      c.lineTo(x - r, middle);
      c.closePath();
      c.fill();
      c.stroke();
    } else if (samples.state[k] === SampleState.lost) {
      c.strokeStyle = '#ef7a63';
      c.lineWidth = 1.8 * ratio;
      c.beginPath();
      c.moveTo(x - r * 0.7, middle - r * 0.7);
      c.lineTo(x + r * 0.7, middle + r * 0.7);
      c.moveTo(x + r * 0.7, middle - r * 0.7);
      c.lineTo(x - r * 0.7, middle + r * 0.7);
      c.stroke();
    }
  }
}
