import { apply, type Mat3 } from '../geometry/mat3.js';
import type { LayerPicture } from './picture-sampler.js';
import type { PixelBox } from './warp-picture.js';

/** The light of a frame is brought to another's by no more than this, either way. */
const mostRelit = 2;
/** Levels below this tell nothing of it. */
const darkest = 8;

/** Has a frame of the clip in red, green and blue at its own size; those after it up to `last` will be asked for next. */
export type ReadFrame = (frame: number, last?: number) => Promise<LayerPicture>;

/** What a frame shows of a box, three numbers a pixel; not numbers outside the picture. */
export function cutOut(
  { rgba, width, height }: LayerPicture,
  { left, top, right, bottom }: PixelBox,
  frameFromLayer: Mat3,
): Float32Array {
  // A box that lies aside has edges between pixels, and still whole pixels from one to the other.
  const [w, h] = [Math.round(right - left), Math.round(bottom - top)];
  const out = new Float32Array(3 * w * h);
  for (let y = 0, at = 0; y < h; y++)
    for (let x = 0; x < w; x++, at += 3) {
      const p = apply(frameFromLayer, left + x + 0.5, top + y + 0.5);
      const [u, v] = [p.x - 0.5, p.y - 0.5];
      const [i, j] = [Math.floor(u), Math.floor(v)];
      if (!(i >= 0 && j >= 0 && i < width - 1 && j < height - 1)) {
        // The last row and column have no neighbour, but are as good as any where nothing moves.
        const isEdge = Math.abs(u - Math.round(u)) < 1e-6 && Math.abs(v - Math.round(v)) < 1e-6;
        const [a, b] = [Math.round(u), Math.round(v)];
        const inside = isEdge && a >= 0 && b >= 0 && a < width && b < height;
        for (let c = 0; c < 3; c++) out[at + c] = inside ? rgba[4 * (b * width + a) + c] : NaN;
        continue;
      }
      const [s, t] = [u - i, v - j];
      const k = 4 * (j * width + i);
      for (let c = 0; c < 3; c++) {
        const upper = rgba[k + c] + s * (rgba[k + 4 + c] - rgba[k + c]);
        const below = k + 4 * width + c;
        const lower = rgba[below] + s * (rgba[below + 4] - rgba[below]);
        out[at + c] = upper + t * (lower - upper);
      }
    }
  return out;
}

/** By how much light differs, by pairs of levels of one colour: the middle ratio, as someone may stand before either. */
export function lightRatio(pairs: readonly (readonly [wanted: number, given: number])[]): number {
  const ratios = pairs.flatMap(([a, b]) => (a > darkest && b > darkest ? [a / b] : []));
  ratios.sort((a, b) => a - b);
  const middle = ratios.length > 0 ? ratios[ratios.length >> 1] : 1;
  return Math.min(Math.max(middle, 1 / mostRelit), mostRelit);
}

/** Brings a look to the light of another, colour by colour, by the pixels of a rim: by how `there` looks on them. */
export function relight(look: Float32Array, own: Float32Array, rim: readonly number[], there = look): void {
  for (let c = 0; c < 3; c++) {
    const gain = lightRatio(rim.map((k) => [own[3 * k + c], there[3 * k + c]] as const));
    for (let k = c; k < look.length; k += 3) look[k] *= gain;
  }
}

/** Of each number the median over looks; where none has one that of `own`. */
export function medianOf(looks: readonly Float32Array[], own: Float32Array): Float32Array {
  const values = new Float32Array(looks.length);
  return own.map((otherwise, k) => {
    let count = 0;
    for (const look of looks) {
      const value = look[k];
      if (value !== value) continue;
      // Few values: put each where it belongs.
      let i = count++;
      for (; i > 0 && values[i - 1] > value; i--) values[i] = values[i - 1];
      values[i] = value;
    }
    return count === 0 ? otherwise : (values[(count - 1) >> 1] + values[count >> 1]) / 2;
  });
}
