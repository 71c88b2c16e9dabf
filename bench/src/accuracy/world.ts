import { randomFrom } from '@lurn/demo';

/** Normally distributed numbers, mean 0, standard deviation 1 (Box & Muller 1958). */
export const normal = (even: () => number): number =>
  Math.sqrt(-2 * Math.log(1 - even())) * Math.cos(2 * Math.PI * even());

/** World pixels to a clip pixel: fine enough that cubic interpolation of the blurred world is exact to 0.1 %. */
export const fineness = 2;

/** A textured ground to film: grey levels about 128, `fineness` samples to a clip pixel. */
export interface World {
  width: number;
  height: number;
  data: Float32Array;
}

/** Stones, planks and grain: octaves of noise with hard-edged shapes among them, softened as a lens does. */
export function makeWorld(width: number, height: number, seed: number, contrast = 1): World {
  const even = randomFrom(seed);
  const data = new Float32Array(width * height);
  for (let octave = 0; octave < 5; octave++)
    addNoise(data, width, height, 96 >> octave, 34 / 1.5 ** octave, even);
  for (let i = 0; i < (width * height) / 1600; i++) addShape(data, width, height, even);
  for (let i = 0; i < data.length; i++) data[i] += 3 * normal(even);
  soften(data, width, height, 1.3);
  let mean = 0;
  for (const level of data) mean += level / data.length;
  let variance = 0;
  for (const level of data) variance += (level - mean) ** 2 / data.length;
  const gain = (38 * contrast) / Math.sqrt(variance);
  for (let i = 0; i < data.length; i++) data[i] = 128 + gain * (data[i] - mean);
  return { width, height, data };
}

function addNoise(
  data: Float32Array,
  width: number,
  height: number,
  cell: number,
  size: number,
  even: () => number,
): void {
  const columns = Math.ceil(width / cell) + 2;
  const rows = Math.ceil(height / cell) + 2;
  const values = Float32Array.from({ length: columns * rows }, () => size * normal(even));
  const ease = (t: number): number => t * t * (3 - 2 * t);
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / cell);
    const v = ease(y / cell - row);
    for (let x = 0; x < width; x++) {
      const column = Math.floor(x / cell);
      const u = ease(x / cell - column);
      const at = row * columns + column;
      const top = values[at] + u * (values[at + 1] - values[at]);
      const bottom = values[at + columns] + u * (values[at + columns + 1] - values[at + columns]);
      data[y * width + x] += top + v * (bottom - top);
    }
  }
}

/** A turned box or a disc of one brightness. */
function addShape(data: Float32Array, width: number, height: number, even: () => number): void {
  const [cx, cy] = [even() * width, even() * height];
  const [a, b] = [4 + even() * 22, 3 + even() * 14];
  const angle = even() * Math.PI;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const level = 30 * normal(even);
  const round = even() < 0.4;
  const reach = Math.ceil(Math.hypot(a, b));
  for (let y = Math.max(0, Math.floor(cy - reach)); y < Math.min(height, cy + reach); y++)
    for (let x = Math.max(0, Math.floor(cx - reach)); x < Math.min(width, cx + reach); x++) {
      const u = (c * (x - cx) + s * (y - cy)) / a;
      const v = (c * (y - cy) - s * (x - cx)) / b;
      if (round ? u * u + v * v < 1 : Math.abs(u) < 1 && Math.abs(v) < 1) data[y * width + x] += level;
    }
}

/** Gaussian blur in place. */
export function soften(data: Float32Array, width: number, height: number, sigma: number): void {
  const reach = Math.ceil(3 * sigma);
  const weights = Array.from({ length: 2 * reach + 1 }, (_, i) =>
    Math.exp(-((i - reach) ** 2) / (2 * sigma ** 2)),
  );
  const sum = weights.reduce((a, b) => a + b);
  const line = new Float32Array(Math.max(width, height));
  const pass = (count: number, length: number, start: (i: number) => number, step: number): void => {
    for (let i = 0; i < count; i++) {
      const at = start(i);
      for (let j = 0; j < length; j++) line[j] = data[at + j * step];
      for (let j = 0; j < length; j++) {
        let total = 0;
        for (let k = -reach; k <= reach; k++)
          total += weights[k + reach] * line[Math.min(Math.max(j + k, 0), length - 1)];
        data[at + j * step] = total / sum;
      }
    }
  };
  pass(height, width, (y) => y * width, 1);
  pass(width, height, (x) => x, width);
}

/** The level at corner-origin world coordinates by Catmull-Rom; the border is repeated. */
export function levelAt({ width, height, data }: World, x: number, y: number): number {
  const px = Math.min(Math.max(x - 0.5, 1), width - 3.001);
  const py = Math.min(Math.max(y - 0.5, 1), height - 3.001);
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  const t = px - ix;
  const s = py - iy;
  const w0 = t * (t * (1 - 0.5 * t) - 0.5);
  const w1 = 1 + t * t * (1.5 * t - 2.5);
  const w2 = t * (0.5 + t * (2 - 1.5 * t));
  const w3 = 0.5 * t * t * (t - 1);
  const at = (iy - 1) * width + ix - 1;
  const row = (o: number): number => w0 * data[o] + w1 * data[o + 1] + w2 * data[o + 2] + w3 * data[o + 3];
  return (
    s * (s * (1 - 0.5 * s) - 0.5) * row(at) +
    (1 + s * s * (1.5 * s - 2.5)) * row(at + width) +
    s * (0.5 + s * (2 - 1.5 * s)) * row(at + 2 * width) +
    0.5 * s * s * (s - 1) * row(at + 3 * width)
  );
}
