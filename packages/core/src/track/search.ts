import { halvePlane, type Plane } from '../image/plane.js';

/** A place where the template fits: its top-left pixel in the searched picture, and how well, −1 to 1. */
export interface Peak {
  x: number;
  y: number;
  score: number;
}

/** A template made ready for correlation: levels less their mean, and the root of their sum of squares. */
interface Normalised {
  levels: Float32Array;
  width: number;
  height: number;
  norm: number;
}

function normalise(picture: Plane): Normalised {
  const { width, height, stride, data } = picture;
  const levels = new Float32Array(width * height);
  let sum = 0;
  for (let y = 0, out = 0; y < height; y++) {
    for (let x = 0; x < width; x++, out++) sum += levels[out] = data[y * stride + x];
  }
  const mean = sum / levels.length;
  let squares = 0;
  for (let i = 0; i < levels.length; i++) {
    levels[i] -= mean;
    squares += levels[i] * levels[i];
  }
  return { levels, width, height, norm: Math.sqrt(squares) };
}

/** Zero-mean normalised cross-correlation of the template laid at (x, y). A flat place scores 0. */
function correlate(template: Normalised, picture: Plane, x: number, y: number): number {
  const { levels, width, height, norm } = template;
  const { data, stride } = picture;
  let sum = 0;
  let squares = 0;
  let product = 0;
  for (let j = 0, t = 0; j < height; j++) {
    for (let i = 0, at = (y + j) * stride + x; i < width; i++, t++, at++) {
      const level = data[at];
      sum += level;
      squares += level * level;
      product += level * levels[t];
    }
  }
  const variance = squares - (sum * sum) / levels.length;
  return variance > 1e-6 && norm > 1e-6 ? product / (norm * Math.sqrt(variance)) : 0;
}

const candidates = 5;
/** A place this much worse than the best one on a coarse level is not followed down. */
const hopeless = 0.25;

/** The highest local maxima of the correlation over every position, best first. */
function searchAll(template: Normalised, picture: Plane): Peak[] {
  const columns = picture.width - template.width + 1;
  const rows = picture.height - template.height + 1;
  const scores = new Float32Array(columns * rows);
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) scores[y * columns + x] = correlate(template, picture, x, y);
  }
  const peaks: Peak[] = [];
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) {
      const score = scores[y * columns + x];
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

/** Climbs from (x, y) to the nearest position that no neighbour betters. */
function searchNear(template: Normalised, picture: Plane, x: number, y: number): Peak {
  const right = picture.width - template.width;
  const bottom = picture.height - template.height;
  const known = new Map<number, number>();
  const scoreAt = (i: number, j: number): number => {
    const place = j * picture.width + i;
    let score = known.get(place);
    if (score === undefined) known.set(place, (score = correlate(template, picture, i, j)));
    return score;
  };
  let best: Peak = { x: Math.min(x, right), y: Math.min(y, bottom), score: -2 };
  best.score = scoreAt(best.x, best.y);
  for (let step = 0; step < 4; step++) {
    const middle = best;
    for (let j = Math.max(middle.y - 1, 0); j <= Math.min(middle.y + 1, bottom); j++) {
      for (let i = Math.max(middle.x - 1, 0); i <= Math.min(middle.x + 1, right); i++) {
        const score = scoreAt(i, j);
        if (score > best.score) best = { x: i, y: j, score };
      }
    }
    if (best === middle) break;
  }
  return best;
}

/**
 * Finds the template in a picture, coarse to fine: every position on a level where the template is still
 * eight pixels across, then the best few followed down. Returns peaks of the full-size correlation, best
 * first, no two closer than a quarter of the template. Empty when the template does not fit inside.
 */
export function searchTemplate(template: Plane, picture: Plane): Peak[] {
  if (template.width > picture.width || template.height > picture.height) return [];
  const templates = [template];
  const pictures = [picture];
  while (Math.min(templates[0].width, templates[0].height) >= 16 && templates.length < 5) {
    templates.unshift(halvePlane(templates[0]));
    pictures.unshift(halvePlane(pictures[0]));
  }
  let peaks = searchAll(normalise(templates[0]), pictures[0]);
  for (let level = 1; level < templates.length; level++) {
    const finer = normalise(templates[level]);
    const hopeful = peaks.filter((peak) => peak.score > peaks[0].score - hopeless);
    peaks = hopeful
      .map((peak) => searchNear(finer, pictures[level], 2 * peak.x, 2 * peak.y))
      .sort((a, b) => b.score - a.score);
  }
  const apart = Math.max(template.width, template.height) / 4;
  return peaks.filter(
    (peak, i) => !peaks.slice(0, i).some((p) => Math.hypot(p.x - peak.x, p.y - peak.y) < apart),
  );
}
