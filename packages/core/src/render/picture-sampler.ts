import type { RowPlace } from '../kernels/kernels.js';
import { invert, type Mat3 } from '../geometry/mat3.js';

/** A picture that layers show: red, green, blue and alpha, not multiplied by it; eight bits. */
export interface LayerPicture {
  width: number;
  height: number;
  rgba: Uint8Array;
}

/** What is laid over a picture, a row at a time. */
export interface Sampler {
  /**
   * Writes the colours at so many places of the frame, so far apart, from (x, y) on: red, green and blue multiplied by alpha, and
   * alpha, all 0 to 1. Rows at once: what is called for each pixel costs more than what it does.
   */
  row(made: Float32Array, x: number, y: number, apart: number, count: number): void;
}

/** One colour everywhere. */
export class PlainSampler implements Sampler {
  private readonly colour: readonly number[];
  constructor(r: number, g: number, b: number) {
    this.colour = [r, g, b, 1];
  }
  row(made: Float32Array, _x: number, _y: number, _apart: number, count: number): void {
    for (let i = 0; i < 4 * count; i++) made[i] = this.colour[i & 3];
  }
}

/** A picture multiplied by its alpha, four numbers a pixel. */
export interface Mip {
  width: number;
  height: number;
  values: Float32Array;
}

/** Takes a picture between its pixels, of the smaller copies the last that is still larger than it is shown. */
export class PictureSampler implements Sampler {
  private readonly levels: Mip[];
  private readonly back: Mat3;

  constructor(
    private readonly picture: LayerPicture,
    frameFromSquare: Mat3,
  ) {
    this.levels = mipsOf(picture);
    this.back = invert(frameFromSquare);
  }

  /** Of the copy that is right for a row of places, and where in it they are. */
  placeOf(x: number, y: number, apart: number, count: number): { mip: Mip; place: RowPlace } {
    const m = this.back;
    const mip = this.levelAt(x + (apart * count) / 2, y, apart);
    const { width, height } = mip;
    const w0 = m[6] * x + m[7] * y + m[8];
    const dw = m[6] * apart;
    // A copy's pixels have their middles at whole numbers.
    const x0 = width * (m[0] * x + m[1] * y + m[2]) - 0.5 * w0;
    const y0 = height * (m[3] * x + m[4] * y + m[5]) - 0.5 * w0;
    const dx = width * m[0] * apart - 0.5 * dw;
    const dy = height * m[3] * apart - 0.5 * dw;
    return { mip, place: { x0, dx, y0, dy, w0, dw } };
  }

  row(made: Float32Array, x: number, y: number, apart: number, count: number): void {
    const { mip, place } = this.placeOf(x, y, apart, count);
    const { width, height, values } = mip;
    const { x0, dx, y0, dy, w0, dw } = place;
    const [mostU, mostV] = [width - 1, height - 1];
    for (let n = 0; n < count; n++) {
      const w = 1 / (w0 + n * dw);
      let u = (x0 + n * dx) * w;
      let v = (y0 + n * dy) * w;
      // Beyond its edge a picture goes on.
      u = u > 0 ? (u < mostU ? u : mostU) : 0;
      v = v > 0 ? (v < mostV ? v : mostV) : 0;
      const i = u | 0;
      const j = v | 0;
      const s = u - i;
      const t = v - j;
      const at = 4 * (j * width + i);
      const k = i < mostU ? at + 4 : at;
      const down = j < mostV ? 4 * width : 0;
      const below = at + down;
      const l = k + down;
      const d = s * t;
      const b = s - d;
      const c = t - d;
      const a = 1 - s - c;
      const to = 4 * n;
      made[to] = a * values[at] + b * values[k] + c * values[below] + d * values[l];
      made[to + 1] = a * values[at + 1] + b * values[k + 1] + c * values[below + 1] + d * values[l + 1];
      made[to + 2] = a * values[at + 2] + b * values[k + 2] + c * values[below + 2] + d * values[l + 2];
      made[to + 3] = a * values[at + 3] + b * values[k + 3] + c * values[below + 3] + d * values[l + 3];
    }
  }

  /** The copy that is right for places so far apart. */
  private levelAt(x: number, y: number, apart: number): Mip {
    const { back: m, levels, picture } = this;
    const w = m[6] * x + m[7] * y + m[8];
    const u = (m[0] * x + m[1] * y + m[2]) / w;
    const v = (m[3] * x + m[4] * y + m[5]) / w;
    const along = Math.hypot(picture.width * (m[0] - u * m[6]), picture.height * (m[3] - v * m[6]));
    const down = Math.hypot(picture.width * (m[1] - u * m[7]), picture.height * (m[4] - v * m[7]));
    const step = (apart * Math.min(along, down)) / Math.abs(w);
    // Larger, not as large: between pixels as many as are shown half of what there is would be lost.
    const smaller = Math.ceil(Math.log2(Math.max(step, 1e-9)) - 0.02) - 1;
    return levels[Math.min(Math.max(smaller, 0), levels.length - 1)];
  }
}

const mips = new WeakMap<LayerPicture, Mip[]>();

/** A picture and copies of it, each half as large. */
function mipsOf(picture: LayerPicture): Mip[] {
  const known = mips.get(picture);
  if (known) return known;
  const { width, height, rgba } = picture;
  const values = new Float32Array(4 * width * height);
  for (let i = 0; i < 4 * width * height; i += 4) {
    const a = rgba[i + 3] / 255;
    values[i] = (a * rgba[i]) / 255;
    values[i + 1] = (a * rgba[i + 1]) / 255;
    values[i + 2] = (a * rgba[i + 2]) / 255;
    values[i + 3] = a;
  }
  const all: Mip[] = [{ width, height, values }];
  for (let last = all[0]; last.width > 1 && last.height > 1; last = all[all.length - 1])
    all.push(halved(last));
  mips.set(picture, all);
  return all;
}

function halved({ width, height, values }: Mip): Mip {
  const [w, h] = [width >> 1, height >> 1];
  const half = new Float32Array(4 * w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 4; c++) {
        const at = 4 * (2 * y * width + 2 * x) + c;
        const below = at + 4 * width;
        half[4 * (y * w + x) + c] = (values[at] + values[at + 4] + values[below] + values[below + 4]) / 4;
      }
  return { width: w, height: h, values: half };
}
