import { apply, multiply, type Mat3 } from '../geometry/mat3.js';
import type { Colour } from '../dress/colour.js';
import type { Match } from '../dress/operation.js';
import type { MaskRecipe } from '../dress/operation.js';
import type { LayerPicture, Sampler } from './picture-sampler.js';
import { PictureSampler } from './picture-sampler.js';
import { maskIn } from './shape-mask.js';
import type { PixelBox } from './warp-picture.js';

/** A layer as it is seen, before it is laid over anything: red, green, blue and alpha of each pixel of a box, multiplied by alpha. */
export class LayerBuffer implements Sampler {
  readonly width: number;
  readonly height: number;
  values: Float32Array;

  constructor(readonly box: PixelBox) {
    this.width = box.right - box.left;
    this.height = box.bottom - box.top;
    this.values = new Float32Array(4 * this.width * this.height);
  }

  row(made: Float32Array, x: number, y: number, apart: number, count: number): void {
    const { values, width, height, box } = this;
    const v = Math.min(Math.max(y - box.top - 0.5, 0), height - 1);
    const j = Math.min(Math.floor(v), Math.max(height - 2, 0));
    const t = v - j;
    const below = height > 1 ? 4 * width : 0;
    const right = width > 1 ? 4 : 0;
    for (let n = 0; n < count; n++) {
      const u = Math.min(Math.max(x + n * apart - box.left - 0.5, 0), width - 1);
      const i = Math.min(Math.floor(u), Math.max(width - 2, 0));
      const s = u - i;
      for (let c = 0; c < 4; c++) {
        const k = 4 * (j * width + i) + c;
        const upper = values[k] + s * (values[k + right] - values[k]);
        const l = k + below;
        made[4 * n + c] = upper + t * (values[l] + s * (values[l + right] - values[l]) - upper);
      }
    }
  }

  /** Adds a picture through a mask, by a share of it. */
  add(picture: LayerPicture, matrix: Mat3, mask: MaskRecipe, share: number): void {
    const { box, width, values } = this;
    const { alpha } = maskIn(mask, box);
    const sampler = new PictureSampler(picture, matrix);
    const colours = new Float32Array(4 * width);
    for (let y = 0; y < this.height; y++) {
      sampler.row(colours, box.left + 0.5, box.top + y + 0.5, 1, width);
      for (let x = 0; x < width; x++) {
        const m = share * alpha[y * width + x];
        if (m === 0) continue;
        const at = 4 * (y * width + x);
        for (let c = 0; c < 4; c++) values[at + c] += m * colours[4 * x + c];
      }
    }
  }

  /** Softens, brings to a light, sets black and white, and lays grain on. */
  match({ soften, grain, black, white }: Match, frame: number, gains: Colour = [1, 1, 1]): void {
    if (soften > 0) this.soften(soften);
    const { values, width, box } = this;
    for (let i = 0; i < values.length; i += 4) {
      const a = values[i + 3];
      if (a === 0) continue;
      const pixel = i / 4;
      const x = box.left + (pixel % width);
      const y = box.top + Math.floor(pixel / width);
      const noise = grain > 0 ? grain * gaussian(x, y, frame) : 0;
      for (let c = 0; c < 3; c++)
        values[i + c] = (white - black) * gains[c] * values[i + c] + a * (black + noise);
    }
  }

  /** A Gaussian of a standard deviation of so many pixels. */
  private soften(sigma: number): void {
    const reach = Math.ceil(3 * sigma);
    const weights = Array.from({ length: reach + 1 }, (_, i) => Math.exp(-(i * i) / (2 * sigma * sigma)));
    const sum = weights.reduce((total, w, i) => total + (i === 0 ? w : 2 * w), 0);
    this.values = this.along(
      weights.map((w) => w / sum),
      this.width,
      this.height,
      4,
      4 * this.width,
    );
    this.values = this.along(
      weights.map((w) => w / sum),
      this.height,
      this.width,
      4 * this.width,
      4,
    );
  }

  private along(weights: number[], length: number, lines: number, step: number, line: number): Float32Array {
    const { values } = this;
    const made = new Float32Array(values.length);
    for (let j = 0; j < lines; j++)
      for (let i = 0; i < length; i++)
        for (let c = 0; c < 4; c++) {
          const base = j * line + c;
          let sum = weights[0] * values[base + i * step];
          for (let k = 1; k < weights.length; k++)
            sum +=
              weights[k] *
              ((i >= k ? values[base + (i - k) * step] : 0) +
                (i + k < length ? values[base + (i + k) * step] : 0));
          made[base + i * step] = sum;
        }
    return made;
  }
}

/** A number that is spread as a Gaussian is, the same for a place and a frame always: four hashed bytes summed up. */
function gaussian(x: number, y: number, frame: number): number {
  let h = Math.imul(x, 374761393) + Math.imul(y, 668265263) + Math.imul(frame + 1, 2147483647);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h = Math.imul(h ^ (h >>> 16), 2246822519);
  h ^= h >>> 15;
  const sum = (h & 255) + ((h >>> 8) & 255) + ((h >>> 16) & 255) + ((h >>> 24) & 255);
  // Four even bytes have a variance of 4 · 65535/12.
  return (sum - 510) / 147.8;
}

/** An outline as an exposure has it. */
export const exposed = (mask: MaskRecipe, by: Mat3): MaskRecipe => ({
  ...mask,
  outlines: mask.outlines.map(({ points, cut }) => ({
    cut,
    points: points.map(({ x, y }) => apply(by, x, y)),
  })),
});

/** A picture in a box as it is exposed, matched to what is about it. */
export function exposedPicture(
  box: PixelBox,
  picture: LayerPicture,
  matrix: Mat3,
  mask: MaskRecipe,
  exposures: readonly Mat3[],
  match: Match,
  frame: number,
  gains?: Colour,
): LayerBuffer {
  const buffer = new LayerBuffer(box);
  for (const by of exposures)
    buffer.add(picture, multiply(by, matrix), exposed(mask, by), 1 / exposures.length);
  buffer.match(match, frame, gains);
  return buffer;
}
