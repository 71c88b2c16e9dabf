import { axesOf } from '../../../geometry/axes.js';
import { solveSymmetric } from '../../../geometry/solve-symmetric.js';
import type { TrackKernels } from '../../../kernels/track-kernels.js';
import type { Patch } from '../../image/patch.js';
import type { Fit } from '../registration.js';
import { columnsAbout, blurredLevels, blurredView, type BlurPath, type BlurPaths } from './blur.js';
import type { Template } from '../../template/types.js';

/** A shorter blur than this, in pixels, is none. */
const leastBlur = 1.5;
/** It is no longer than this share of the box's shorter side, nor than so many pixels. */
const longestBlur = { share: 0.75, pixels: 48 };
/** So often it is looked for what is still left of it, unless that changes it by less than so many pixels. */
const rounds = 6;
const settledBlur = 0.3;

/** How template and picture are blurred against each other where `fit` has them; null where they are not, or none can tell. */
export function estimateBlur(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  { matrix }: Fit,
): BlurPaths | null {
  const spread = { xx: 0, xy: 0, yy: 0 };
  let found: BlurPaths | null = null;
  for (let round = 0; round < rounds; round++) {
    const levels = blurredLevels(kernels, template, found?.template ?? null);
    const seen = blurredView(kernels, template, area, matrix, found?.picture ?? null);
    const more = excessSpread(template, levels, seen, !found?.template);
    if (!more) break;
    spread.xx += more.xx;
    spread.xy += more.xy;
    spread.yy += more.yy;
    const last = found;
    found = blurPathsOf(spread, template);
    if (!found || (last && changeFrom(last, found) < settledBlur)) break;
  }
  return found;
}

const changeFrom = (last: BlurPaths, next: BlurPaths): number =>
  way(last.template, next.template) + way(last.picture, next.picture);

const way = (from: BlurPath | null, to: BlurPath | null): number =>
  Math.hypot((from?.x ?? 0) - (to?.x ?? 0), (from?.y ?? 0) - (to?.y ?? 0));

/** Covariance of what blurs, square pixels. */
interface Spread {
  xx: number;
  xy: number;
  yy: number;
}

/** The straight ways that spread like that, across each other; null where there are none to speak of. */
function blurPathsOf({ xx, xy, yy }: Spread, { width, height, margin }: Template): BlurPaths | null {
  const { least, most, angle } = axesOf(xx, xy, yy);
  const { share, pixels } = longestBlur;
  const longest = Math.min(share * Math.min(width, height), pixels, 2 * (margin - 4));
  // Even motion blur over a length spreads by a twelfth of its square.
  const along = (spread: number, direction: number): BlurPath | null => {
    const length = Math.min(Math.sqrt(12 * Math.max(spread, 0)), longest);
    if (length < leastBlur) return null;
    return { x: length * Math.cos(direction), y: length * Math.sin(direction) };
  };
  const [template, picture] = [along(most, angle), along(-least, angle + Math.PI / 2)];
  return template || picture ? { template, picture } : null;
}

/** About so many pixels tell how a picture is blurred. */
const asked = 1700;
/** Light, contrast, shift along x and y, and the three of a spread; these are solved beside it. */
const unknowns = 7;
const beside = 4;
/** Motion blur must explain so much of what the rest leaves over to be worth a registration. */
const worthwhile = 0.1;

/**
 * What more the picture is blurred than these levels of a template: as far as motion blur is short against what is to be seen it
 * adds half of the second derivatives, times its covariance. Light and shift are solved beside it. Null where the texture
 * does not tell. A template that is not blurred has grain, which the picture has not.
 */
function excessSpread(
  { width, height, full, grain }: Template,
  levels: Float32Array,
  seen: Float32Array,
  isGrainy: boolean,
): Spread | null {
  const n = unknowns;
  const normal = new Float64Array(n * n);
  const right = new Float64Array(n);
  const row = new Float64Array(n);
  const wide = columnsAbout(width);
  const columns = full.count / full.height;
  const spacing = Math.ceil(Math.sqrt((width * height) / asked));
  const middle = levels[((height + 2) >> 1) * wide + ((width + 2) >> 1)];
  let [pixels, squares] = [0, 0];
  for (let y = 0; y < height; y += spacing)
    for (let x = 0; x < width; x += spacing) {
      const p = (y + 1) * wide + x + 1;
      const value = seen[y * columns + x];
      const [here, before, after] = [levels[p], levels[p - 1], levels[p + 1]];
      const [above, below] = [levels[p - wide], levels[p + wide]];
      const rising = levels[p + wide + 1] - levels[p + wide - 1];
      row[0] = 1;
      row[1] = here - middle;
      row[2] = (after - before) / 2;
      row[3] = (below - above) / 2;
      row[4] = (after - 2 * here + before) / 2;
      row[5] = (rising - levels[p - wide + 1] + levels[p - wide - 1]) / 4;
      row[6] = (below - 2 * here + above) / 2;
      if (!(value + row[4] + row[5] + row[6] < Infinity)) continue;
      pixels++;
      squares += value * value;
      for (let i = 0; i < n; i++) {
        right[i] += row[i] * value;
        for (let j = 0; j <= i; j++) normal[i * n + j] += row[i] * row[j];
      }
    }
  if (isGrainy) for (const [i, j, share] of grainShares) normal[i * n + j] -= share * pixels * grain;
  const told = solveSymmetric(normal, right, n);
  if (!told || !(told[1] > 0)) return null;
  if (
    isGrainy &&
    !(leftOver(normal, right, squares, n) < (1 - worthwhile) * leftOver(normal, right, squares, beside))
  )
    return null;
  return { xx: told[4] / told[1], xy: told[5] / told[1], yy: told[6] / told[1] };
}

/** Squares left over when the first so many unknowns are solved, all in all. */
function leftOver(normal: Float64Array, right: Float64Array, squares: number, count: number): number {
  const part = new Float64Array(count * count);
  for (let i = 0; i < count; i++) for (let j = 0; j <= i; j++) part[i * count + j] = normal[i * unknowns + j];
  const told = solveSymmetric(part, right, count);
  return told ? told.reduce((left, value, i) => left - value * right[i], squares) : squares;
}

/** What white grain puts into the products of the level, its slopes and its second derivatives, a pixel. */
const grainShares = [
  [1, 1, 1],
  [2, 2, 1 / 2],
  [3, 3, 1 / 2],
  [4, 1, -1],
  [4, 4, 3 / 2],
  [5, 5, 1 / 4],
  [6, 1, -1],
  [6, 4, 1],
  [6, 6, 3 / 2],
] as const;
