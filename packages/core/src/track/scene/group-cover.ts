import type { MotionGroup, PictureExtent } from './motion-group.js';
import type { ShotFeatures } from './shot-features.js';

/** Cells across the picture, by which is told how much of it things take up. */
export const columns = 20;

/** How much of a shot's cells, over its frames, features take up. */
export function shareOf(
  shot: ShotFeatures,
  members: readonly number[],
  { width, height }: PictureExtent,
): number {
  const cell = width / columns;
  const rows = Math.ceil(height / cell);
  const inside = new Uint8Array(shot.features);
  for (const f of members) inside[f] = 1;
  const taken = new Int32Array((columns + 1) * (rows + 1)).fill(-1);
  let sum = 0;
  for (let k = 0; k + 1 < shot.starts.length; k++)
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      if (!inside[shot.feature[s]]) continue;
      const c = Math.floor(shot.places[2 * s + 1] / cell) * columns + Math.floor(shot.places[2 * s] / cell);
      if (taken[c] === k) continue;
      taken[c] = k;
      sum++;
    }
  return sum / ((columns * height) / cell) / (shot.starts.length - 1);
}

/** Frames of a shot, at most, on which it is looked at what covers the picture. */
const looks = 60;

/**
 * How much of the picture each group covers: a cell belongs to the group of the feature that is nearest to it, as a plain sky does to
 * the hills below it.
 */
export function coverOf(
  shot: ShotFeatures,
  groups: readonly MotionGroup[],
  { width, height }: PictureExtent,
): number[] {
  const groupOfFeature = new Int8Array(shot.features).fill(-1);
  groups.forEach(({ members, heldOut }, g) => {
    for (const f of members) groupOfFeature[f] = g;
    for (const f of heldOut) groupOfFeature[f] = g;
  });
  const cell = width / columns;
  const counts = groups.map(() => 0);
  const frames = shot.starts.length - 1;
  const step = Math.max(1, Math.floor(frames / looks));
  let cells = 0;
  for (let k = 0; k < frames; k += step) {
    for (let y = cell / 2; y < height; y += cell)
      for (let x = cell / 2; x < width; x += cell) {
        let [nearest, group] = [Infinity, -1];
        for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
          const distance = (shot.places[2 * s] - x) ** 2 + (shot.places[2 * s + 1] - y) ** 2;
          if (distance < nearest) [nearest, group] = [distance, groupOfFeature[shot.feature[s]]];
        }
        cells++;
        if (group >= 0) counts[group]++;
      }
  }
  return counts.map((count) => count / Math.max(cells, 1));
}
