import { multiply, translation, type Mat3 } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { PictureLevel } from './picture-levels.js';
import { correlationIn, levelPlaces, sampleLevel } from './register-region.js';
import type { TemplateLevel } from './region-template.js';

/** A place a region may be, and how alike it is there, −1 to 1. */
export interface Candidate {
  matrix: Mat3;
  likeness: number;
}

/**
 * Where the picture is most like a level of a region, which is shifted by up to `radius` clip pixels about some poses: the
 * best few, by normalised correlation, no two of them within two pixels of the level.
 */
export function searchRegion(
  kernels: TrackKernels,
  level: TemplateLevel,
  picture: PictureLevel,
  poses: readonly Mat3[],
  radius: number,
  most: number,
): Candidate[] {
  const { scale, count, level: levels } = level;
  const seen = kernels.scratch('region seen', 4 * count);
  const out = kernels.scratch('region normal', 8 * 80);
  const { toLevel } = levelPlaces(level, picture);
  const reach = Math.ceil(radius / scale);
  const found: (Candidate & { x: number; y: number })[] = [];
  for (const pose of poses)
    for (let dy = -reach; dy <= reach; dy++)
      for (let dx = -reach; dx <= reach; dx++) {
        const matrix = multiply(translation(dx * scale, dy * scale), pose);
        const m = toLevel(matrix);
        const inside = sampleLevel(kernels, level, picture, m, false, seen);
        if (inside < count / 4) continue;
        kernels.moments(levels, seen, 0, count, level.mean, out);
        const alike = correlationIn(kernels, out);
        if (alike === null) continue;
        const likeness = alike * Math.sqrt(inside / count);
        found.push({ matrix, likeness, x: m[2] / m[8], y: m[5] / m[8] });
      }
  found.sort((a, b) => b.likeness - a.likeness);
  const apart: typeof found = [];
  for (const one of found) {
    if (apart.length >= most) break;
    if (apart.every(({ x, y }) => Math.hypot(x - one.x, y - one.y) > 2)) apart.push(one);
  }
  return apart;
}
