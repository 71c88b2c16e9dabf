import type { Plane } from '../../track/image/plane.js';

/**
 * Catmull-Rom interpolation (Keys 1981, a = −½) at corner-origin coordinates; the border pixel is repeated.
 * Returns a grey level, not clamped to 0–255.
 */
export function sampleCubic(plane: Plane, x: number, y: number): number {
  const px = x - 0.5;
  const py = y - 0.5;
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  const t = px - ix;
  const u = py - iy;
  const t2 = t * t;
  const u2 = u * u;
  const w0 = t * (t - 0.5 - 0.5 * t2);
  const w1 = t2 * (1.5 * t - 2.5) + 1;
  const w2 = t * (0.5 + 2 * t - 1.5 * t2);
  const w3 = 0.5 * t2 * (t - 1);
  const v0 = u * (u - 0.5 - 0.5 * u2);
  const v1 = u2 * (1.5 * u - 2.5) + 1;
  const v2 = u * (0.5 + 2 * u - 1.5 * u2);
  const v3 = 0.5 * u2 * (u - 1);
  const { data, stride, width, height } = plane;
  if (ix >= 1 && iy >= 1 && ix < width - 2 && iy < height - 2) {
    const a = (iy - 1) * stride + ix - 1;
    const b = a + stride;
    const c = b + stride;
    const d = c + stride;
    return (
      v0 * (w0 * data[a] + w1 * data[a + 1] + w2 * data[a + 2] + w3 * data[a + 3]) +
      v1 * (w0 * data[b] + w1 * data[b + 1] + w2 * data[b + 2] + w3 * data[b + 3]) +
      v2 * (w0 * data[c] + w1 * data[c + 1] + w2 * data[c + 2] + w3 * data[c + 3]) +
      v3 * (w0 * data[d] + w1 * data[d + 1] + w2 * data[d + 2] + w3 * data[d + 3])
    );
  }
  const xs = [ix - 1, ix, ix + 1, ix + 2].map((i) => Math.min(Math.max(i, 0), width - 1));
  const ws = [w0, w1, w2, w3];
  const vs = [v0, v1, v2, v3];
  let sum = 0;
  for (let j = 0; j < 4; j++) {
    const row = Math.min(Math.max(iy - 1 + j, 0), height - 1) * stride;
    for (let i = 0; i < 4; i++) sum += vs[j] * ws[i] * data[row + xs[i]];
  }
  return sum;
}
