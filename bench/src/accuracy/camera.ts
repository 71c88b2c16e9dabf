import type { Plane } from '@lurn/core';
import { randomFrom } from '@lurn/demo';
import { fineness, levelAt, normal, type World } from './world.js';

export const filmWidth = 480;
export const filmHeight = 360;

/** How the camera stands on one frame: the world turned by `angle`, grown by `size`, shifted by (x, y) clip pixels. */
export interface Pose {
  x: number;
  y: number;
  angle: number;
  size: number;
}

/** Something before the lens on some frames: a rectangle in clip pixels with a texture of its own. */
export interface Cover {
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface Take {
  world: World;
  frames: number;
  pose: (k: number) => Pose;
  gain?: (k: number) => number;
  /** Standard deviation of the noise, grey levels. */
  noise?: number;
  /** Length of the motion blur, clip pixels, along a direction that turns from frame to frame. */
  smear?: number;
  covers?: (k: number) => Cover[];
  seed: number;
}

const centre = { x: filmWidth / 2, y: filmHeight / 2 };

/** Where a place of the world, in clip pixels from its centre, stands on frame k; corner origin. */
export function project(take: Take, k: number, place: { x: number; y: number }): { x: number; y: number } {
  const { x, y, angle, size } = take.pose(k);
  const [c, s] = [size * Math.cos(angle), size * Math.sin(angle)];
  return { x: centre.x + x + c * place.x - s * place.y, y: centre.y + y + s * place.x + c * place.y };
}

/** An open shutter is looked through so many times for each pixel of motion blur. */
const momentsAPixel = 3;

/** Takes one frame: 8-bit grey, exact to the rounding but for the noise. */
export function expose(take: Take, k: number): Plane {
  const { world, noise = 0, smear = 0 } = take;
  const { x, y, angle, size } = take.pose(k);
  const gain = take.gain?.(k) ?? 1;
  const [a, b] = [Math.cos(angle) / size, Math.sin(angle) / size];
  const levels = new Float32Array(filmWidth * filmHeight);
  const count = Math.max(Math.ceil(momentsAPixel * smear), 1);
  for (let m = 0; m < count; m++) {
    const along = smear * ((m + 0.5) / count - 0.5);
    const ox = centre.x + x + along * Math.cos(k / 7);
    const oy = centre.y + y + along * Math.sin(k / 7);
    for (let j = 0, i = 0; j < filmHeight; j++) {
      const dy = j + 0.5 - oy;
      for (let h = 0; h < filmWidth; h++, i++) {
        const dx = h + 0.5 - ox;
        const wx = world.width / 2 + fineness * (a * dx + b * dy);
        const wy = world.height / 2 + fineness * (a * dy - b * dx);
        levels[i] += levelAt(world, wx, wy) / count;
      }
    }
  }
  take.covers?.(k).forEach((cover, n) => drawCover(levels, cover, n));
  const even = randomFrom(take.seed * 7919 + k);
  const data = new Uint8Array(filmWidth * filmHeight);
  for (let i = 0; i < data.length; i++) {
    const level = gain * levels[i] + (noise > 0 ? noise * normal(even) : 0);
    data[i] = Math.min(Math.max(Math.round(level), 0), 255);
  }
  return { data, width: filmWidth, height: filmHeight, stride: filmWidth };
}

function drawCover(levels: Float32Array, { left, top, width, height }: Cover, n: number): void {
  for (let y = Math.max(0, Math.round(top)); y < Math.min(filmHeight, top + height); y++)
    for (let x = Math.max(0, Math.round(left)); x < Math.min(filmWidth, left + width); x++) {
      const [u, v] = [x - left, y - top];
      levels[y * filmWidth + x] =
        110 + 25 * Math.sin(u / 5 + n) + 25 * Math.sin(v / 7 + 2 * n) + 15 * Math.sin((u + v) / 3);
    }
}
