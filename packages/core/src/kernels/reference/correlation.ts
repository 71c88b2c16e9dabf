import { makePlane, type Plane } from '../../track/image/plane.js';

// The kernels of the search in plain TypeScript: what the fast ones must come to.

/** Half the size; each pixel the rounded mean of the 2×2 above it. An odd last row or column is dropped. */
export function halvePlane(source: Plane): Plane {
  const half = makePlane(source.width >> 1, source.height >> 1);
  const { data, stride } = source;
  let out = 0;
  for (let y = 0; y < half.height; y++) {
    let at = 2 * y * stride;
    for (let x = 0; x < half.width; x++, at += 2) {
      half.data[out++] = (data[at] + data[at + 1] + data[at + stride] + data[at + stride + 1] + 2) >> 2;
    }
  }
  return half;
}

/** Zero-mean normalised correlation of the template laid at (x, y), −1 to 1. A flat place scores 0. */
export function correlate(template: Plane, picture: Plane, x: number, y: number): number {
  const n = template.width * template.height;
  let [t, s, tt, ss, ts] = [0, 0, 0, 0, 0];
  for (let j = 0; j < template.height; j++) {
    for (let i = 0; i < template.width; i++) {
      const a = template.data[j * template.stride + i];
      const b = picture.data[(y + j) * picture.stride + x + i];
      t += a;
      s += b;
      tt += a * a;
      ss += b * b;
      ts += a * b;
    }
  }
  const spread = Math.sqrt(Math.max(tt - (t * t) / n, 0) * Math.max(ss - (s * s) / n, 0));
  return spread > 1e-3 ? (ts - (t * s) / n) / spread : 0;
}

/** Floats as grey levels, rounded and held to 0–255; `blank` for what is not a number. */
export const quantise = (levels: Float32Array, blank: number): Uint8Array =>
  Uint8Array.from(levels, (level) => Math.min(Math.max((Number.isNaN(level) ? blank : level) + 0.5, 0), 255));
