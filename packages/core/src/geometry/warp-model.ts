import type { Mat3 } from './mat3.js';

/** What a template box may do from frame to frame besides shifting. */
export const warpModels = ['translation', 'euclidean', 'similarity', 'affine', 'homography'] as const;
export type WarpModel = (typeof warpModels)[number];

/** Numbers that describe a small motion of each shape; all are pixels at the box's reach. */
export const parameterCount: Record<WarpModel, number> = {
  translation: 2,
  euclidean: 3,
  similarity: 4,
  affine: 6,
  homography: 8,
};

/**
 * How a pixel with gradient (gx, gy) at (u, v) from the box's centre answers to each parameter: the steepest
 * descent images of Baker & Matthews 2004, one number a parameter, lengths in units of `reach`. Turning is meant
 * on the screen: where pixels are `aspect` times as wide as high it slants the grid. They go into `out` from `at` on,
 * `apart` from one to the next.
 */
export function steepestDescent(
  model: WarpModel,
  gx: number,
  gy: number,
  u: number,
  v: number,
  reach: number,
  aspect: number,
  out: Float32Array | Float64Array,
  at = 0,
  apart = 1,
): void {
  const x = u / reach;
  const y = v / reach;
  out[at] = gx;
  out[at + apart] = gy;
  const grow = gx * x + gy * y;
  const turn = gy * x * aspect - (gx * y) / aspect;
  if (model === 'euclidean') out[at + 2 * apart] = turn;
  else if (model === 'similarity') {
    out[at + 2 * apart] = grow;
    out[at + 3 * apart] = turn;
  } else if (model !== 'translation') {
    out[at + 2 * apart] = gx * x;
    out[at + 3 * apart] = gx * y;
    out[at + 4 * apart] = gy * x;
    out[at + 5 * apart] = gy * y;
    if (model === 'affine') return;
    out[at + 6 * apart] = -grow * x;
    out[at + 7 * apart] = -grow * y;
  }
}

/** The motion of the box that small parameters `p` stand for. */
export function increment(model: WarpModel, p: ArrayLike<number>, reach: number, aspect: number): Mat3 {
  const r = 1 / reach;
  switch (model) {
    case 'translation':
      return [1, 0, p[0], 0, 1, p[1], 0, 0, 1];
    case 'euclidean': {
      const c = Math.cos(p[2] * r);
      const s = Math.sin(p[2] * r);
      return [c, -s / aspect, p[0], s * aspect, c, p[1], 0, 0, 1];
    }
    case 'similarity':
      return [1 + p[2] * r, (-p[3] * r) / aspect, p[0], p[3] * r * aspect, 1 + p[2] * r, p[1], 0, 0, 1];
    case 'affine':
      return [1 + p[2] * r, p[3] * r, p[0], p[4] * r, 1 + p[5] * r, p[1], 0, 0, 1];
    case 'homography':
      return [1 + p[2] * r, p[3] * r, p[0], p[4] * r, 1 + p[5] * r, p[1], p[6] * r * r, p[7] * r * r, 1];
  }
}

/** The parameters after those of shift that a small change of a shape stands for, as `increment` takes them. */
export function changeOf(model: WarpModel, [a, b, , c, d]: Mat3, reach: number, aspect: number): number[] {
  const turn = (c / aspect - b * aspect) / 2;
  switch (model) {
    case 'translation':
      return [];
    case 'euclidean':
      return [turn * reach];
    case 'similarity':
      return [((a + d) / 2 - 1) * reach, turn * reach];
    case 'affine':
      return [a - 1, b, c, d - 1].map((value) => value * reach);
    case 'homography':
      return [a - 1, b, c, d - 1, 0, 0].map((value) => value * reach);
  }
}

/**
 * The turn (radians) and growth on the screen that a matrix of clip pixels has at (x, y): the nearest similarity to
 * its derivative there.
 */
export function turnAt(m: Mat3, x: number, y: number, aspect = 1): { rotation: number; scale: number } {
  const w = m[6] * x + m[7] * y + m[8];
  const px = (m[0] * x + m[1] * y + m[2]) / w;
  const py = (m[3] * x + m[4] * y + m[5]) / w;
  const along = (m[0] - px * m[6] + m[4] - py * m[7]) / w;
  const across = ((m[3] - py * m[6]) / aspect - (m[1] - px * m[7]) * aspect) / w;
  return { rotation: Math.atan2(across, along), scale: Math.hypot(along, across) / 2 };
}
