import type { Channel, TrackPicture } from './analysis.js';

/** Weights of red and blue in luma, ITU-R BT.601, BT.709, BT.2020. */
const lumaWeights = { bt601: [0.299, 0.114], bt709: [0.2126, 0.0722], bt2020: [0.2627, 0.0593] } as const;

/** Half the width of the neighbourhood that local contrast goes by. */
const neighbourhood = 9;
/** So far around a pixel filters look. */
export const filterReach = neighbourhood + 2;
/** Grey levels a neighbourhood is brought to, and the deviation below which it counts as flat. */
const wantedDeviation = 40;
const flat = 3;

export function readChannel(
  picture: TrackPicture,
  channel: Channel,
  left: number,
  top: number,
  width: number,
  height: number,
): Float32Array {
  const { chroma, matrix = 'bt709', range = 'limited' } = picture;
  const out = new Float32Array(width * height);
  const colour = channel === 'luma' ? undefined : chroma;
  const [kr, kb] = lumaWeights[matrix];
  const [lumaScale, chromaScale, black] = range === 'full' ? [1, 1, 0] : [255 / 219, 255 / 224, 16];
  const [u, v] = colour ?? [picture, picture];
  const halvedX = Math.round(picture.width / u.width) - 1;
  const halvedY = Math.round(picture.height / u.height) - 1;
  const clampTo = (i: number, size: number): number => Math.min(Math.max(i, 0), size - 1);
  for (let j = 0, i = 0; j < height; j++) {
    const y = clampTo(top + j, picture.height);
    const row = y * picture.stride;
    const chromaRow = clampTo(y >> halvedY, u.height) * u.stride;
    for (let h = 0; h < width; h++, i++) {
      const x = clampTo(left + h, picture.width);
      const level = picture.data[row + x];
      if (!colour) {
        out[i] = level;
        continue;
      }
      const at = chromaRow + (x >> halvedX);
      const grey = lumaScale * (level - black);
      const red = grey + 2 * (1 - kr) * chromaScale * (v.data[at] - 128);
      const blue = grey + 2 * (1 - kb) * chromaScale * (u.data[at] - 128);
      if (channel === 'red') out[i] = red;
      else if (channel === 'blue') out[i] = blue;
      else {
        const green = (grey - kr * red - kb * blue) / (1 - kr - kb);
        out[i] = channel === 'green' ? green : Math.max(red, green, blue) - Math.min(red, green, blue);
      }
    }
  }
  return out;
}

/** Lines of the other field become the mean of the lines about them. */
export function fillLines(
  data: Float32Array,
  width: number,
  height: number,
  top: number,
  fields: 'top' | 'bottom',
): void {
  const parity = fields === 'top' ? 0 : 1;
  for (let y = 0; y < height; y++) {
    if (((top + y) & 1) === parity) continue;
    const above = Math.abs(y - 1) * width;
    const below = (y + 1 < height ? y + 1 : y - 1) * width;
    for (let x = 0; x < width; x++) data[y * width + x] = (data[above + x] + data[below + x]) / 2;
  }
}

/** Binomial 1 4 6 4 1 along rows and columns: a Gaussian of one pixel. */
export function soften(data: Float32Array, width: number, height: number): void {
  const line = new Float32Array(Math.max(width, height) + 4);
  const pass = (count: number, length: number, stride: number, step: number): void => {
    for (let i = 0; i < count; i++) {
      const at = i * stride;
      for (let j = -2; j < length + 2; j++)
        line[j + 2] = data[at + Math.min(Math.max(j, 0), length - 1) * step];
      for (let j = 0; j < length; j++)
        data[at + j * step] =
          (line[j] + line[j + 4] + 4 * (line[j + 1] + line[j + 3]) + 6 * line[j + 2]) / 16;
    }
  };
  pass(height, width, width, 1);
  pass(width, height, 1, width);
}

/** Softened, then each pixel against the mean and deviation of the square about it. */
export function equaliseContrast(data: Float32Array, width: number, height: number): void {
  soften(data, width, height);
  const across = width + 1;
  const sums = new Float64Array(across * (height + 1));
  const squares = new Float64Array(across * (height + 1));
  for (let y = 0; y < height; y++) {
    let [sum, square] = [0, 0];
    for (let x = 0; x < width; x++) {
      const level = data[y * width + x];
      sum += level;
      square += level * level;
      const at = (y + 1) * across + x + 1;
      sums[at] = sums[at - across] + sum;
      squares[at] = squares[at - across] + square;
    }
  }
  for (let y = 0; y < height; y++) {
    const y0 = Math.max(y - neighbourhood, 0) * across;
    const y1 = Math.min(y + neighbourhood + 1, height) * across;
    for (let x = 0; x < width; x++) {
      const x0 = Math.max(x - neighbourhood, 0);
      const x1 = Math.min(x + neighbourhood + 1, width);
      const count = ((y1 - y0) / across) * (x1 - x0);
      const mean = (sums[y1 + x1] - sums[y1 + x0] - sums[y0 + x1] + sums[y0 + x0]) / count;
      const square = (squares[y1 + x1] - squares[y1 + x0] - squares[y0 + x1] + squares[y0 + x0]) / count;
      const deviation = Math.sqrt(Math.max(square - mean * mean, 0)) + flat;
      const at = y * width + x;
      data[at] = 128 + (wantedDeviation * (data[at] - mean)) / deviation;
    }
  }
}
