import type { Colour } from '../dress/colour.js';
import type { Mask } from './shape-mask.js';
import { planeLayout, type PlaneLayout, type YuvFormat } from './yuv-picture.js';

/** A picture that is dressed where it lies. */
export interface Dressed {
  levels: Uint8Array | Uint16Array;
  format: YuvFormat;
  planes: PlaneLayout[];
}

/** BT.709: luma of red, green and blue, and what scales their differences from it to chroma. */
export const [wr, wg, wb] = [0.2126, 0.7152, 0.0722];
export const [cb, cr] = [1 / 1.8556, 1 / 1.5748];

/** Levels of black and white, of chroma from its middle, by bits and range. */
export function levelsOf({ bits, range }: YuvFormat) {
  const unit = 1 << (bits - 8);
  return range === 'limited'
    ? { black: 16 * unit, luma: 219 * unit, middle: 128 * unit, chroma: 224 * unit, most: 256 * unit - 1 }
    : { black: 0, luma: 255 * unit, middle: 128 * unit, chroma: 255 * unit, most: 256 * unit - 1 };
}

/** A colour as levels of luma and chroma, not rounded. */
export function yuvOf([r, g, b]: Colour, format: YuvFormat): [number, number, number] {
  const { black, luma, middle, chroma } = levelsOf(format);
  const y = wr * r + wg * g + wb * b;
  return [black + luma * y, middle + chroma * (b - y) * cb, middle + chroma * (r - y) * cr];
}

/** Keeps a mask inside or outside of another of the same box. */
export function holdOut({ alpha }: Mask, other: Mask, keep: 'inside' | 'outside'): void {
  for (let i = 0; i < alpha.length; i++) alpha[i] *= keep === 'inside' ? other.alpha[i] : 1 - other.alpha[i];
}

/** The colour of a picture about a place, the mean over so many pixels on either side; each 0 to 1. */
export function colourAt(
  levels: Uint8Array | Uint16Array,
  format: YuvFormat,
  { x, y }: { x: number; y: number },
  reach: number,
): Colour {
  const { black, luma, middle, chroma } = levelsOf(format);
  const means = planeLayout({ ...format, alpha: false }).map(({ offset, width, height }) => {
    const [sx, sy] = [width / format.width, height / format.height];
    const span = (at: number, share: number, size: number): [number, number] => [
      Math.min(Math.max(Math.floor((at - reach) * share), 0), size - 1),
      Math.min(Math.max(Math.floor((at + reach) * share), 0), size - 1),
    ];
    const [[left, right], [top, bottom]] = [span(x, sx, width), span(y, sy, height)];
    let sum = 0;
    for (let j = top; j <= bottom; j++)
      for (let i = left; i <= right; i++) sum += levels[offset + j * width + i];
    return sum / ((right - left + 1) * (bottom - top + 1));
  });
  const t = (means[0] - black) / luma;
  const blue = t + (means[1] - middle) / (chroma * cb);
  const red = t + (means[2] - middle) / (chroma * cr);
  const kept = (v: number): number => Math.min(Math.max(v, 0), 1);
  return [kept(red), kept((t - wr * red - wb * blue) / wg), kept(blue)];
}

/** The part of a plane that a box of luma lies over. */
export interface PlanePart {
  plane: PlaneLayout;
  /** Luma pixels to a sample, across and down. */
  across: number;
  down: number;
  left: number;
  top: number;
  width: number;
  height: number;
  alpha: Float32Array;
}

/** A mask at each plane's own size. Chroma that is sited left takes a quarter of both neighbours, else the mean. */
export function partsOf({ planes, format }: Dressed, { box, alpha }: Mask): PlanePart[] {
  const [first, u, v] = planes;
  const width = box.right - box.left;
  const height = box.bottom - box.top;
  const whole = { plane: first, across: 1, down: 1, left: box.left, top: box.top, width, height, alpha };
  const across = Math.round(format.width / u.width);
  const down = Math.round(format.height / u.height);
  const [left, top] = [Math.floor(box.left / across), Math.floor(box.top / down)];
  const w = Math.min(Math.ceil(box.right / across), u.width) - left;
  const h = Math.min(Math.ceil(box.bottom / down), u.height) - top;
  const own = new Float32Array(w * h);
  const isLeft = across === 2 && format.siting === 'left';
  for (let y = 0; y < h; y++)
    for (let dy = 0; dy < down; dy++) {
      const row = Math.min(y * down + dy, height - 1) * width;
      for (let x = 0; x < w; x++) {
        const at = row + Math.min(x * across, width - 1);
        const next = across === 2 && x * 2 + 1 < width ? alpha[at + 1] : alpha[at];
        const sum = isLeft ? (alpha[x > 0 ? at - 1 : at] + 2 * alpha[at] + next) / 4 : (alpha[at] + next) / 2;
        own[y * w + x] += sum / down;
      }
    }
  const part = { across, down, left, top, width: w, height: h, alpha: own };
  return [whole, { ...part, plane: u }, { ...part, plane: v }];
}

/** Changes each level of a part where its mask is anything, by as much as it is. */
export function change(
  levels: Uint8Array | Uint16Array,
  { plane, left, top, width, height, alpha }: PlanePart,
  most: number,
  wanted: (level: number, x: number, y: number) => number,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = alpha[y * width + x];
      if (a === 0) continue;
      const at = plane.offset + (top + y) * plane.width + left + x;
      const level = levels[at];
      levels[at] = Math.min(Math.max(Math.round(level + a * (wanted(level, x, y) - level)), 0), most);
    }
}

/** Means over so many on either side, along rows (`step` 1) or columns. */
export function boxMeans(
  values: Float32Array,
  width: number,
  height: number,
  step: number,
  reach: number,
): Float32Array {
  const made = new Float32Array(values.length);
  const [length, lines] = step === 1 ? [width, height] : [height, width];
  for (let line = 0; line < lines; line++) {
    const base = step === 1 ? line * width : line;
    const at = (i: number): number => values[base + Math.min(Math.max(i, 0), length - 1) * step];
    let sum = 0;
    for (let i = -reach; i <= reach; i++) sum += at(i);
    for (let i = 0; i < length; i++) {
      made[base + i * step] = sum / (2 * reach + 1);
      sum += at(i + reach + 1) - at(i - reach);
    }
  }
  return made;
}
