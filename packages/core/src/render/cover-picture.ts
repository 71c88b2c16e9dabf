import type { CoverContent } from '../dress/operation.js';
import type { MaskRecipe } from '../dress/operation.js';
import type { Point } from '../geometry/mat3.js';
import { boxMeans, change, levelsOf, partsOf, yuvOf, type Dressed, type PlanePart } from './dressed.js';
import type { Mask } from './shape-mask.js';

/** The upper left corner about outlines: squares ride along with it. */
export const originOf = ({ outlines }: MaskRecipe): Point => {
  const points = outlines.flatMap((one) => one.points);
  return points.length === 0
    ? { x: 0, y: 0 }
    : { x: Math.min(...points.map((p) => p.x)), y: Math.min(...points.map((p) => p.y)) };
};

/** Hides what is there. */
export function cover(
  dressed: Dressed,
  mask: Mask,
  { how, colour, strength }: CoverContent,
  scale: { x: number; y: number },
  origin: Point,
): void {
  const { levels, format } = dressed;
  const { most } = levelsOf(format);
  const side = Math.max(1, strength * Math.sqrt(scale.x * scale.y));
  const plain = yuvOf(colour, format);
  partsOf(dressed, mask).forEach((part, i) => {
    if (how === 'plain') return change(levels, part, most, () => plain[i]);
    if (how === 'averaged') {
      const mean = meanOf(levels, part);
      return change(levels, part, most, () => mean);
    }
    const made =
      how === 'mosaic'
        ? mosaicOf(levels, part, side, origin)
        : blurOf(levels, part, side, how === 'blur' ? Math.ceil(2 * side) : 0);
    change(levels, part, most, (_, x, y) => made[y * part.width + x]);
  });
}

/** What a part comes to on average, by how much of it is covered. */
function meanOf(
  levels: Uint8Array | Uint16Array,
  { plane, left, top, width, height, alpha }: PlanePart,
): number {
  let [sum, weight] = [0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = alpha[y * width + x];
      sum += a * levels[plane.offset + (top + y) * plane.width + left + x];
      weight += a;
    }
  return weight > 0 ? sum / weight : 0;
}

/** Squares of one level each, so many luma pixels wide, from an origin on. */
function mosaicOf(
  levels: Uint8Array | Uint16Array,
  part: PlanePart,
  side: number,
  origin: Point,
): Float32Array {
  const { plane, left, top, width, height, across, down } = part;
  const column = (x: number): number => Math.floor(((left + x + 0.5) * across - origin.x) / side);
  const row = (y: number): number => Math.floor(((top + y + 0.5) * down - origin.y) / side);
  const [first, above] = [column(0), row(0)];
  const columns = column(width - 1) - first + 1;
  const rows = row(height - 1) - above + 1;
  const sums = new Float64Array(columns * rows);
  const counts = new Float64Array(columns * rows);
  const cells = Int32Array.from({ length: width }, (_, x) => column(x) - first);
  for (let y = 0; y < height; y++) {
    const at = (row(y) - above) * columns;
    for (let x = 0; x < width; x++) {
      sums[at + cells[x]] += levels[plane.offset + (top + y) * plane.width + left + x];
      counts[at + cells[x]]++;
    }
  }
  const made = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const at = (row(y) - above) * columns;
    for (let x = 0; x < width; x++) made[y * width + x] = sums[at + cells[x]] / counts[at + cells[x]];
  }
  return made;
}

/** Three box means one after another, which come near a Gaussian; edges of the picture go on. */
function blurOf(
  levels: Uint8Array | Uint16Array,
  part: PlanePart,
  radius: number,
  margin: number,
): Float32Array {
  const { plane, left, top, width, height, across, down } = part;
  const [mx, my] = [Math.ceil(margin / across), Math.ceil(margin / down)];
  const [w, h] = [width + 2 * mx, height + 2 * my];
  let now: Float32Array = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const row = plane.offset + Math.min(Math.max(top + y - my, 0), plane.height - 1) * plane.width;
    for (let x = 0; x < w; x++)
      now[y * w + x] = levels[row + Math.min(Math.max(left + x - mx, 0), plane.width - 1)];
  }
  for (let pass = 0; pass < 3; pass++) {
    now = boxMeans(now, w, h, 1, Math.max(1, Math.round(radius / across / 1.7)));
    now = boxMeans(now, w, h, w, Math.max(1, Math.round(radius / down / 1.7)));
  }
  const made = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    made.set(now.subarray((y + my) * w + mx, (y + my) * w + mx + width), y * width);
  return made;
}
