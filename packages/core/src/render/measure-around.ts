import type { Match } from '../dress/operation.js';
import type { MaskRecipe } from '../dress/operation.js';
import { levelsOf } from './dressed.js';
import { maskBox, maskIn } from './shape-mask.js';
import type { YuvFormat } from './yuv-picture.js';

/** What is looked at about a shape, pixels on each side of it. */
const margin = 40;
/** Shares of luma below and above which lie what counts as black and white. */
const [darkest, brightest] = [0.02, 0.98];
/** Of the edges that there are, the share that are sharp enough to tell how sharp the picture is. */
const sharpest = 0.02;
/** Standard deviation of the Gaussian that edges are softened by once more. */
const again = 1;

/**
 * Measures what is about a shape, beyond its outlines: black and white; grain by what a Laplacian of second differences leaves of
 * smooth parts (Immerkær 1996); softness by how much edges lose when they are softened once more (Zhuo & Sim 2011).
 */
export function measureAround(levels: Uint8Array | Uint16Array, format: YuvFormat, shape: MaskRecipe): Match {
  const reach: MaskRecipe = { ...shape, featherIn: 0, featherOut: margin, choke: 0, invert: false };
  const box = maskBox(reach, format) ?? { left: 0, top: 0, right: format.width, bottom: format.height };
  const inside = maskIn({ ...shape, featherIn: 0, featherOut: 4, choke: 0, invert: false }, box).alpha;
  const { black, luma } = levelsOf(format);
  const width = box.right - box.left;
  const height = box.bottom - box.top;
  const light = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      light[y * width + x] = (levels[(box.top + y) * format.width + box.left + x] - black) / luma;
  const seen: number[] = [];
  const residuals: number[] = [];
  const edges: number[] = [];
  const soft = softened(light, width, height);
  const ratio = new Map<number, number>();
  for (let y = 2; y < height - 2; y++)
    for (let x = 2; x < width - 2; x++) {
      const k = y * width + x;
      if (inside[k] > 0) continue;
      seen.push(light[k]);
      residuals.push(laplacian((dx, dy) => light[k + dy * width + dx]));
      const slope = slopeAt(light, k, width);
      edges.push(slope);
      ratio.set(k, slope / Math.max(slopeAt(soft, k, width), 1e-6));
    }
  if (seen.length < 64) return { soften: 0, grain: 0, black: 0, white: 1 };
  const byLight = seen.sort((a, b) => a - b);
  const at = (share: number): number =>
    Math.min(Math.max(byLight[Math.floor(share * (byLight.length - 1))], 0), 1);
  const grain = grainOf(residuals);
  const limit = [...edges].sort((a, b) => a - b)[Math.floor((1 - sharpest) * (edges.length - 1))];
  const ratios = [...ratio]
    .filter(([k]) => slopeAt(light, k, width) >= limit && limit > 6 * grain)
    .map(([, r]) => r)
    .sort((a, b) => a - b);
  const r = ratios[ratios.length >> 1] ?? Infinity;
  // Beyond what half a pixel softens by, which every picture is.
  const sigma = r > 1 ? again / Math.sqrt(r * r - 1) : 0;
  return {
    soften: r === Infinity ? 0 : Math.round(10 * Math.sqrt(Math.max(0, sigma * sigma - 0.25))) / 10,
    grain: Math.round(1000 * grain) / 1000,
    black: at(darkest),
    white: at(brightest),
  };
}

/** What smooth parts leave nothing of, about a place: a difference of second differences. */
export const laplacian = (at: (dx: number, dy: number) => number): number =>
  Math.abs(
    4 * at(0, 0) -
      2 * (at(-1, 0) + at(1, 0) + at(0, -1) + at(0, 1)) +
      (at(-1, -1) + at(1, -1) + at(-1, 1) + at(1, 1)),
  );

/** The standard deviation of grain by such differences, which are sorted. */
export function grainOf(differences: number[]): number {
  // The median is not drawn up by edges and texture; of a Gaussian's absolute values it is 0.6745 of the deviation, and the
  // weights have a norm of six.
  differences.sort((a, b) => a - b);
  return differences.length > 0 ? differences[differences.length >> 1] / 0.6745 / 6 : 0;
}

const slopeAt = (light: Float32Array, k: number, width: number): number =>
  Math.hypot(light[k + 1] - light[k - 1], light[k + width] - light[k - width]) / 2;

/** A Gaussian of one pixel. */
function softened(light: Float32Array, width: number, height: number): Float32Array {
  const reach = Math.ceil(3 * again);
  const weights = Array.from({ length: 2 * reach + 1 }, (_, i) =>
    Math.exp(-((i - reach) ** 2) / (2 * again * again)),
  );
  const total = weights.reduce((sum, w) => sum + w, 0);
  const along = (
    from: Float32Array,
    step: number,
    size: number,
    index: (k: number) => number,
  ): Float32Array =>
    from.map((_, k) => {
      const i = index(k);
      let sum = 0;
      for (let j = -reach; j <= reach; j++)
        sum += weights[j + reach] * from[k + step * (Math.min(Math.max(i + j, 0), size - 1) - i)];
      return sum / total;
    });
  const rows = along(light, 1, width, (k) => k % width);
  return along(rows, width, height, (k) => Math.floor(k / width));
}
