import { makePlane, type Plane } from '../track/image/plane.js';

// Looked up once: in the test runner every look at a global costs.
const { sin, cos, exp, floor, imul, round, min, max } = Math;

/** A number for each cell of a plane, as if drawn at random. */
export const cellSeed = (i: number, j: number): number =>
  imul(imul(i, 374761393) ^ imul(j, 668265263), 1274126177) >>> 8;

/** Soft random spots on a ground of slow waves: a texture without a second place alike, grey levels. */
export function groundLevel(x: number, y: number): number {
  let level = 118 + 22 * sin(x * 0.05 + sin(y * 0.021)) + 20 * sin(y * 0.043 + 1.3 * sin(x * 0.017));
  const [left, top] = [floor(x / 11), floor(y / 11)];
  for (let j = top - 1; j <= top + 1; j++)
    for (let i = left - 1; i <= left + 1; i++) {
      const seed = cellSeed(i, j);
      const [dx, dy] = [x - 11 * i - (seed % 11), y - 11 * j - ((seed >> 4) % 11)];
      level += (((seed >> 9) & 127) - 60) * exp(-(dx * dx + dy * dy) / 9);
    }
  return level;
}

export interface Shot {
  x?: number;
  y?: number;
  angle?: number;
  size?: number;
  /** Grey levels of even noise. */
  noise?: number;
  gain?: number;
  /** Painted over at the end. */
  paint?: (x: number, y: number) => number | null;
}

/** The ground as a camera sees it: turned and grown about the picture's middle, then moved by (x, y). */
export function shoot(width: number, height: number, shot: Shot = {}): Plane {
  const { x = 0, y = 0, angle = 0, size = 1, noise = 0, gain = 1, paint } = shot;
  const plane = makePlane(width, height);
  const [c, s] = [cos(-angle) / size, sin(-angle) / size];
  let seed = 1 + round(1000 * x + 77 * y);
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const [dx, dy] = [i + 0.5 - width / 2 - x, j + 0.5 - height / 2 - y];
      seed = (imul(seed, 1664525) + 1013904223) >>> 0;
      const painted = paint?.(i, j) ?? null;
      const level = painted ?? gain * groundLevel(500 + c * dx - s * dy, 500 + s * dx + c * dy);
      plane.data[j * width + i] = min(max(round(level + noise * (seed / 2 ** 31 - 1)), 0), 255);
    }
  return plane;
}

/** A square picture of levels given anywhere: what lay at p is seen at p + (dx, dy), with grain of a deviation. */
export function shootLevels(
  side: number,
  level: (x: number, y: number) => number,
  dx: number,
  dy: number,
  deviation: number,
  grain: () => number,
): Plane {
  const plane = makePlane(side, side);
  plane.data.forEach((_, i) => {
    const clean = level((i % side) + 0.5 - dx, floor(i / side) + 0.5 - dy);
    plane.data[i] = min(max(round(clean + deviation * grain()), 0), 255);
  });
  return plane;
}
