import { describe, expect, test } from '@jest/globals';
import { bareEdges, framingMatrix, place } from '../framing/framing.js';
import { fitFraming } from '../framing/fit-framing.js';
import { readMotionJson, writeMotionJson } from '../formats/motion-file.js';
import { evenTimes } from '../geometry/frame-times.js';
import { apply, invert, matrixAt, multiply, type Mat3, type Point } from '../geometry/mat3.js';
import { kernelHeap, makeKernelMemory, startKernels } from '../kernels/kernels.js';
import { warpPicture } from '../render/warp-picture.js';
import { pictureBytes, type YuvFormat } from '../render/yuv-picture.js';
import { fullStrength } from '../steady/correct.js';
import { steadyMotion, type SteadySettings } from '../steady/steady.js';
import { kernelModule } from '../testing/kernel-module.js';
import { handShake, seenFrom } from '../testing/scene-film.js';
import { stillMotion, type Motion } from './motion.js';
import { middlePlace, readPlace, rowMotionOf, type RowMotion } from './row-motion.js';

const size = { width: 640, height: 360 };
const frames = 40;
const readout = 0.8;

/** A hand-held camera, at any moment. */
const cameraAt = (moment: number): Mat3 => seenFrom(moment, size.width, size.height, { x: 0, y: 0 });

const shaken: Motion = {
  ...stillMotion(frames, 0, { x: 320, y: 180 }),
  model: 'similarity',
  matrices: Float64Array.from(
    Array.from({ length: frames }, (_, k) => multiply(cameraAt(k), invert(cameraAt(0)))).flat(),
  ),
  support: new Uint16Array(frames).fill(4),
  readout,
};
const rows = rowMotionOf(shaken, size.height) as RowMotion;

/** Where a rolling shutter has a point of the reference frame: where the camera has it as its row is read. */
function filmed(frame: number, { x, y }: Point): Point {
  const still = apply(invert(cameraAt(0)), x, y);
  let seen = apply(cameraAt(frame), still.x, still.y);
  for (let i = 0; i < 30; i++)
    seen = apply(cameraAt(frame + readout * (seen.y / size.height - 0.5)), still.x, still.y);
  return seen;
}

const settings: SteadySettings = {
  mode: 'hold',
  kind: 'even',
  model: 'auto',
  smoothSeconds: 1,
  channels: { x: true, y: true, rotation: true, scale: true },
  strength: fullStrength,
  referenceFrame: 0,
  range: { first: 0, last: frames - 1 },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
};
const clip = { ...size, times: evenTimes(frames, 25), pixelAspect: '1:1' };

describe('rows that were read one after another', () => {
  test('are put where they would have been: three quarters of the wobble go, of 0.8 of a frame and the fastest shake', () => {
    let [before, after, n] = [0, 0, 0];
    for (let k = 3; k < frames - 3; k++)
      for (const x of [60, 320, 580])
        for (const y of [20, 100, 260, 340]) {
          const read = filmed(k, { x, y });
          const middle = apply(matrixAt(shaken.matrices, k), x, y);
          const right = middlePlace(rows, k, read);
          before += (read.x - middle.x) ** 2 + (read.y - middle.y) ** 2;
          after += (right.x - middle.x) ** 2 + (right.y - middle.y) ** 2;
          n++;
        }
    expect(Math.sqrt(before / n)).toBeGreaterThan(0.4);
    expect(Math.sqrt(after / n)).toBeLessThan(0.25 * Math.sqrt(before / n));
  });

  test('there and back is the same place', () => {
    for (const y of [0, 111.5, 359])
      for (const x of [0, 500]) {
        const read = readPlace(rows, 17, { x, y });
        const back = middlePlace(rows, 17, read);
        expect(Math.hypot(back.x - x, back.y - y)).toBeLessThan(1e-3);
      }
  });

  test('without a readout there is nothing to be done, and shots too short for a moment between frames are left', () => {
    expect(rowMotionOf({ ...shaken, readout: 0 }, 360)).toBeNull();
    const short = rowMotionOf({ ...shaken, shots: [{ first: 0, last: 2 }] }, 360);
    expect(readPlace(short, 1, { x: 5, y: 350 }).x).toBeCloseTo(5, 9);
  });

  test('the smallest zoom shows no bare edge on any row, and a thousandth less does', () => {
    const { correction } = steadyMotion(shaken, clip, settings);
    const fit = fitFraming(correction.matrices, 0, frames - 1, size, rows);
    expect(fit).not.toBeNull();
    if (!fit) return;
    const bareAt = (zoom: number, dx = 0, dy = 0) =>
      bareEdges(
        place(
          correction.matrices,
          { zoom, offsetX: fit.framing.offsetX + dx, offsetY: fit.framing.offsetY + dy },
          size,
        ),
        0,
        frames - 1,
        size,
        rows,
      ).length;
    expect(bareAt(fit.framing.zoom)).toBe(0);
    for (let dx = -4; dx <= 4; dx += 0.5)
      for (let dy = -4; dy <= 4; dy += 0.5)
        expect(bareAt(fit.framing.zoom - 1.5e-3, dx, dy)).toBeGreaterThan(0);
  });

  test('a composed path keeps every row inside as well', () => {
    const framing = { zoom: 1.08, offsetX: 0, offsetY: 0 };
    const composed = steadyMotion(shaken, clip, { ...settings, mode: 'smooth', kind: 'composed', framing });
    expect(composed.bare).toEqual([]);
  });

  test('a motion file says the readout, and what it comes to is read from it', () => {
    const facts = {
      name: 'deck.mp4',
      ...size,
      frames,
      frameRate: { numerator: 25, denominator: 1 },
      pixelAspect: '1:1',
    };
    const { placements, report } = steadyMotion(shaken, clip, settings);
    const file = writeMotionJson(facts, shaken, placements, 0, frames - 1);
    expect((JSON.parse(file) as { readout: number }).readout).toBe(readout);
    const read = readMotionJson(file, facts);
    expect(readPlace(read.rows ?? null, 12, { x: 10, y: 10 })).toEqual(readPlace(rows, 12, { x: 10, y: 10 }));
    expect(report.shakeBefore).toBeGreaterThan(report.shakeAfter);
    const spoilt = file.replace('"readout": 0.8', '"readout": 40');
    expect(() => readMotionJson(spoilt, facts)).toThrow(/readout, 40, is no share/);
  });
});

test.each([8, 10] as const)('a picture of %d bits is resampled row by row, as the places say', (bits) => {
  const format: YuvFormat = {
    width: 250,
    height: 480,
    subsampling: '420',
    siting: 'left',
    range: 'full',
    bits,
  };
  const moved: Motion = {
    ...stillMotion(12, 0, { x: 125, y: 240 }),
    readout,
    matrices: Float64Array.from(
      Array.from({ length: 12 }, (_, k): Mat3 => {
        const { x, y, rotation } = handShake(k, 2);
        return [1, -rotation, x, rotation, 1, y, 0, 0, 1];
      }).flat(),
    ),
  };
  const byRows = { rows: rowMotionOf(moved, 480) as RowMotion, frame: 6 };
  const step = (pictureBytes(format) + 127) & ~63;
  const memory = makeKernelMemory(kernelHeap + 2 * step);
  const kernels = startKernels(kernelModule(), memory);
  const levels = bits === 8 ? new Uint8Array(memory.buffer) : new Uint16Array(memory.buffer);
  const bytes = bits / 8 > 1 ? 2 : 1;
  // The level says where a pixel came from.
  for (let y = 0; y < 480; y++)
    for (let x = 0; x < 250; x++) levels[kernelHeap / bytes + y * 250 + x] = (x + 1) * (bits === 8 ? 1 : 4);
  const outputFromFrame = framingMatrix({ zoom: 1.2, offsetX: 3, offsetY: -2 }, format);
  const [from, to] = [kernelHeap, kernelHeap + step].map((at) => ({ at, format }));
  warpPicture(kernels, from, to, outputFromFrame, { interpolation: 'cubic', beyond: 'black', byRows });
  const back = invert(outputFromFrame);
  let worst = 0;
  for (let y = 2; y < 478; y++)
    for (let x = 4; x < 246; x += 3) {
      const { x: from } = readPlace(byRows.rows, 6, apply(back, x + 0.5, y + 0.5));
      if (from < 4 || from > 246) continue;
      const level = levels[(kernelHeap + step) / bytes + y * 250 + x] / (bits === 8 ? 1 : 4);
      worst = Math.max(worst, Math.abs(level - (from + 0.5)));
    }
  // Half a level of rounding, and what the bands leave.
  expect(worst).toBeLessThan(0.5 / (bits === 8 ? 1 : 4) + 0.1);
});
