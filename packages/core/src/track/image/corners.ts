import type { TrackKernels } from '../../kernels/track-kernels.js';

/** A corner: the smaller eigenvalue of its slopes' second moments, squared grey levels a pixel, and its middle, corner origin. */
export interface Corner {
  score: number;
  x: number;
  y: number;
}

/** The best corner of every cell, `cell` pixels wide, of the plane at `at`, row by row; -1 is the score where there is none. */
export function cornersIn(
  kernels: TrackKernels,
  at: number,
  width: number,
  height: number,
  cell: number,
): Corner[] {
  const cells = Math.floor(width / cell) * Math.floor(height / cell);
  const out = kernels.scratch('corners', 12 * Math.max(cells, 1));
  const scratch = kernels.scratch('corner scratch', 76 * (width + 16));
  kernels.cornerCells(at, width, width, height, cell, scratch, out);
  const found = kernels.floats(out, 3 * cells);
  return Array.from({ length: cells }, (_, i) => ({
    score: found[3 * i],
    x: found[3 * i + 1] + 0.5,
    y: found[3 * i + 2] + 0.5,
  }));
}
