import type { TrackKernels } from '../../kernels/track-kernels.js';
import { patchBytes, type Patch } from '../image/patch.js';
import type { SearchTemplate } from './search-template.js';

/** A place where the template fits: its top-left pixel in the searched rectangle, and how well, −1 to 1. */
export interface Peak {
  x: number;
  y: number;
  score: number;
}

/** A plane in the kernels' memory to look in, and the template of the same pyramid level. */
interface Level {
  at: number;
  stride: number;
  width: number;
  height: number;
  template: { at: number; width: number; height: number };
}

const candidates = 5;
/** Steps that a candidate climbs on a finer level. */
const mostSteps = 4;
/** A place this much worse than the best one on a coarse level is not followed down. */
const hopeless = 0.25;

/**
 * Finds the template in the rectangle of the area that begins at (left, top), coarse to fine: every position
 * on a level where the template is still eight pixels across, then the best few followed down. Returns peaks
 * of the full-size correlation, best first, no two closer than a quarter of the template. Empty when the
 * template does not fit inside.
 */
export function searchTemplate(
  kernels: TrackKernels,
  wanted: SearchTemplate,
  area: Patch,
  { left, top, width, height }: { left: number; top: number; width: number; height: number },
): Peak[] {
  const finest = wanted.levels[wanted.levels.length - 1];
  if (finest.width > width || finest.height > height) return [];
  const levels: Level[] = [
    { at: area.at + top * area.stride + left, stride: area.stride, width, height, template: finest },
  ];
  for (let i = wanted.levels.length - 2; i >= 0; i--) {
    const from = levels[0];
    const [halfW, halfH] = [from.width >> 1, from.height >> 1];
    const at = kernels.scratch(`search level ${i}`, patchBytes(halfW, halfH));
    kernels.halvePlane(from.at, from.stride, from.width, from.height, at);
    levels.unshift({ at, stride: halfW, width: halfW, height: halfH, template: wanted.levels[i] });
  }
  let peaks = searchAll(kernels, levels[0]);
  for (const level of levels.slice(1)) {
    peaks = peaks
      .filter((peak) => peak.score > peaks[0].score - hopeless)
      .map((peak) => climb(kernels, level, 2 * peak.x, 2 * peak.y))
      .sort((a, b) => b.score - a.score);
  }
  const apart = Math.max(finest.width, finest.height) / 4;
  return peaks.filter(
    (peak, i) => !peaks.slice(0, i).some((p) => Math.hypot(p.x - peak.x, p.y - peak.y) < apart),
  );
}

/** Correlation over a grid of positions; the scores lie in the room `scores`. */
function correlate(kernels: TrackKernels, level: Level, x: number, y: number, columns: number, rows: number) {
  const { template } = level;
  const scores = kernels.scratch('scores', 4 * columns * rows);
  const at = level.at + y * level.stride + x;
  kernels.correlate(template.at, template.width, template.height, at, level.stride, columns, rows, scores);
  return kernels.floats(scores, columns * rows);
}

/** The highest local maxima of the correlation over every position, best first. */
function searchAll(kernels: TrackKernels, level: Level): Peak[] {
  const columns = level.width - level.template.width + 1;
  const rows = level.height - level.template.height + 1;
  const scores = correlate(kernels, level, 0, 0, columns, rows);
  const peaks: Peak[] = [];
  for (let y = 0, i = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++, i++) {
      const score = scores[i];
      if (peaks.length === candidates && score <= peaks[candidates - 1].score) continue;
      if (!isLocalMaximum(scores, columns, rows, x, y)) continue;
      peaks.push({ x, y, score });
      peaks.sort((a, b) => b.score - a.score);
      peaks.length = Math.min(peaks.length, candidates);
    }
  }
  return peaks;
}

function isLocalMaximum(scores: Float32Array, columns: number, rows: number, x: number, y: number): boolean {
  const score = scores[y * columns + x];
  for (let j = Math.max(y - 1, 0); j <= Math.min(y + 1, rows - 1); j++) {
    for (let i = Math.max(x - 1, 0); i <= Math.min(x + 1, columns - 1); i++) {
      if (scores[j * columns + i] > score) return false;
    }
  }
  return true;
}

/** Climbs from (x, y) to the nearest position that no neighbour betters; only what is new is looked at. */
function climb(kernels: TrackKernels, level: Level, x: number, y: number): Peak {
  const right = level.width - level.template.width;
  const bottom = level.height - level.template.height;
  let best: Peak = { x: Math.min(x, right), y: Math.min(y, bottom), score: -2 };
  const lookAt = (fromX: number, fromY: number, toX: number, toY: number): void => {
    const [left, top] = [Math.max(fromX, 0), Math.max(fromY, 0)];
    const columns = Math.min(toX, right) - left + 1;
    const rows = Math.min(toY, bottom) - top + 1;
    if (columns <= 0 || rows <= 0) return;
    const scores = correlate(kernels, level, left, top, columns, rows);
    for (let i = 0; i < columns * rows; i++)
      if (scores[i] > best.score)
        best = { x: left + (i % columns), y: top + Math.floor(i / columns), score: scores[i] };
  };
  let { x: fromX, y: fromY } = best;
  lookAt(fromX - 1, fromY - 1, fromX + 1, fromY + 1);
  for (let step = 1; step < mostSteps; step++) {
    const [dx, dy] = [best.x - fromX, best.y - fromY];
    if (dx === 0 && dy === 0) break;
    ({ x: fromX, y: fromY } = best);
    if (dx !== 0) lookAt(fromX + dx, fromY - 1, fromX + dx, fromY + 1);
    if (dy !== 0) lookAt(fromX - (dx < 0 ? 0 : 1), fromY + dy, fromX + (dx > 0 ? 0 : 1), fromY + dy);
  }
  return best;
}
