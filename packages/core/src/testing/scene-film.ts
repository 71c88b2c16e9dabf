import { invert, multiply, translation, type Mat3 } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { makePlane, type Plane } from '../track/image/plane.js';
import { grainFrom } from './grain.js';

// Looked up once: in the test runner every look at a global costs.
const { sin, exp, floor, max, min, round } = Math;

/** Something large and flat, with a texture of its own; levels of 0 let through what lies behind it. */
export interface Ground {
  plane: Plane;
  /** Where it stands in the picture on each frame. */
  frameFromGround: (frame: number) => Mat3;
}

/** A texture of soft spots of several sizes, without a second place alike. */
export function texture(seed: number, width: number, height: number, contrast = 1): Plane {
  const plane = makePlane(width, height);
  const grain = grainFrom(seed);
  const level = new Float64Array(width * height).fill(120);
  const spots = round((width * height) / 260);
  for (let i = 0; i < spots; i++) {
    const uniform = (): number => (((grain() * 1e4) % 1) + 1) % 1;
    const [x, y, r] = [uniform() * width, uniform() * height, 2 + 5 * uniform() ** 2];
    const height01 = contrast * 55 * grain();
    for (let v = max(0, floor(y - 3 * r)); v < min(height, y + 3 * r); v++)
      for (let u = max(0, floor(x - 3 * r)); u < min(width, x + 3 * r); u++)
        level[v * width + u] += height01 * exp(-((u - x) ** 2 + (v - y) ** 2) / (2 * r * r));
  }
  level.forEach((value, i) => (plane.data[i] = round(min(max(value, 12), 243))));
  return plane;
}

/** A picture of grounds, the last in front; `rows` gives each row a moment of its own, as a rolling shutter does. */
export function filmScene(
  width: number,
  height: number,
  grounds: readonly Ground[],
  frame: number,
  { noise = 0, gain = 1, readout = 0 } = {},
): Plane {
  const picture = makePlane(width, height);
  const grain = grainFrom(1000 + frame);
  for (const { plane, frameFromGround } of grounds) {
    let back = invert(frameFromGround(frame));
    for (let y = 0; y < height; y++) {
      if (readout > 0) back = invert(frameFromGround(frame + readout * ((y + 0.5) / height - 0.5)));
      const row = y + 0.5;
      for (let x = 0; x < width; x++) {
        const z = back[6] * (x + 0.5) + back[7] * row + back[8];
        const u = (back[0] * (x + 0.5) + back[1] * row + back[2]) / z - 0.5;
        const v = (back[3] * (x + 0.5) + back[4] * row + back[5]) / z - 0.5;
        const [i, j] = [floor(u), floor(v)];
        if (i < 0 || j < 0 || i + 1 >= plane.width || j + 1 >= plane.height) continue;
        const [s, t] = [u - i, v - j];
        const at = j * plane.stride + i;
        const { data } = plane;
        if (data[at] === 0) continue;
        picture.data[y * width + x] =
          (1 - t) * ((1 - s) * data[at] + s * data[at + 1]) +
          t * ((1 - s) * data[at + plane.stride] + s * data[at + plane.stride + 1]);
      }
    }
  }
  picture.data.forEach(
    (level, i) => (picture.data[i] = min(max(round(gain * level + noise * grain()), 0), 255)),
  );
  return picture;
}

/** A hand-held camera's shake, the same whenever it is asked for: shifts in pixels, turns in radians. */
export const handShake = (frame: number, size = 1) => ({
  x: size * (3.1 * sin(frame * 0.61) + 1.7 * sin(frame * 1.27 + 1) + 0.8 * sin(frame * 2.2 + 2)),
  y: size * (2.6 * sin(frame * 0.53 + 2) + 1.5 * sin(frame * 1.41) + 0.7 * sin(frame * 2.4 + 1)),
  rotation: size * 0.003 * sin(frame * 0.44 + 1),
  scale: 1 + size * 0.002 * sin(frame * 0.23),
});

/** Where a ground stands that the camera sees from the side: shaken about the picture's middle, and shifted. */
export const seenFrom = (
  frame: number,
  width: number,
  height: number,
  { x, y }: { x: number; y: number },
  size = 1,
): Mat3 =>
  multiply(similarityMatrix(handShake(frame, size), { x: width / 2, y: height / 2 }), translation(x, y));
