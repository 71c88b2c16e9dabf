import { describe, expect, test } from '@jest/globals';
import { apply, identity, invert, multiply, type Mat3 } from '../geometry/mat3.js';
import { kernelHeap, makeKernelMemory, startKernels } from '../kernels/kernels.js';
import { kernelModule } from '../testing/kernel-module.js';
import { filmScene, seenFrom, texture } from '../testing/scene-film.js';
import { fillFrames, type Carried } from './fill-frames.js';
import { bareBoxes, OutputPictures, scratchBytes, type OutputOptions } from './output-picture.js';
import { pictureBytes, type YuvFormat } from './yuv-picture.js';

const size = { width: 320, height: 180 };
const frames = 21;
const middle = 10;
const ground = texture(7, 640, 320);

/** A hand that pans over something flat, at 5 px a frame. */
const seen = (k: number): Mat3 => seenFrom(k, size.width, size.height, { x: -100 - 5 * k, y: -60 }, 0.8);
const table = Array.from({ length: frames }, (_, k) => multiply(seen(k), invert(seen(middle))));
const carried: Carried = {
  frameFromReference: Float64Array.from(table.flat()),
  shots: [{ first: 0, last: frames - 1 }],
};
/** Everything is held as it is on the middle frame. */
const outputFromFrame = (k: number): Mat3 => invert(table[k]);
const boxesOf = (k: number) => bareBoxes(outputFromFrame(k), null, size, size);

describe('frames that fill what another leaves bare', () => {
  test('are the nearest in time that reach it, those in front last, and never beyond the reach or a cut', () => {
    const found = fillFrames(carried, 16, outputFromFrame(16), boxesOf(16), size, 20);
    const away = found.map(({ frame }) => Math.abs(frame - 16));
    expect(away).toEqual([...away].sort((a, b) => b - a));
    expect(new Set(found.map(({ frame }) => frame)).size).toBe(found.length);
    // Each lies where the motion has it: in the held picture all are placed alike.
    for (const { frame, outputFromFrame: at } of found)
      outputFromFrame(frame).forEach((v, i) => expect(at[i]).toBeCloseTo(v, 6));
    expect(fillFrames(carried, 16, outputFromFrame(16), boxesOf(16), size, 2).length).toBeLessThanOrEqual(4);
    const cut = {
      ...carried,
      shots: [
        { first: 0, last: 15 },
        { first: 16, last: frames - 1 },
      ],
    };
    for (const { frame } of fillFrames(cut, 16, outputFromFrame(16), boxesOf(16), size, 20))
      expect(frame).toBeGreaterThanOrEqual(16);
    expect(fillFrames(carried, middle, identity, [], size, 20)).toEqual([]);
  });
});

test('near tracks that go beside the motion shift what is taken; far ones, and those that go their own way, do not', () => {
  const at = 16;
  const taken = (tracks: Carried['tracks']) =>
    fillFrames({ ...carried, tracks }, at, outputFromFrame(at), boxesOf(at), size, 20).at(-1);
  const plain = taken([]);
  if (!plain) throw new Error('An edge is bare.');
  const { frame: other } = plain;
  /** A track that on the other frame is found so far beside where the motion has it. */
  const track = (x: number, y: number, aside: number) => {
    const places = { x: new Float64Array(frames).fill(NaN), y: new Float64Array(frames).fill(NaN) };
    for (const k of [at, other]) {
      const p = apply(table[k], x, y);
      [places.x[k], places.y[k]] = [p.x + (k === other ? aside : 0), p.y];
    }
    return places;
  };
  const shiftOf = (tracks: Carried['tracks']): number =>
    (taken(tracks)?.outputFromFrame[2] ?? 0) - plain.outputFromFrame[2];
  const [bare] = boxesOf(at);
  const near = [0.2, 0.5, 0.8].map((t) => track((bare.left + bare.right) / 2, t * size.height, 2));
  // The picture is held: 2 px of the frame are 2 px of the output, of which three near tracks are followed most of the way.
  expect(shiftOf(near)).toBeLessThan(-1.4);
  expect(shiftOf(near)).toBeGreaterThan(-2);
  const far = bare.left > size.width / 2 ? 0 : size.width;
  expect(Math.abs(shiftOf([track(far, size.height / 2, 2)]))).toBeLessThan(0.05);
  expect(shiftOf([track((bare.left + bare.right) / 2, size.height / 2, 40)])).toBe(0);
});

const format: YuvFormat = { ...size, subsampling: '420', siting: 'left', range: 'full', bits: 8 };

test('a filled band on something flat is within 34 dB of what is really there, in light that changes', () => {
  const options: OutputOptions = { source: format, size, interpolation: 'cubic', edge: 'fill', scale: 1 };
  const step = (pictureBytes(format) + 127) & ~63;
  const at = (k: number): number => kernelHeap + k * step;
  const scratch = at(frames + 1);
  const memory = makeKernelMemory(scratch + scratchBytes(options));
  const bytes = new Uint8Array(memory.buffer);
  const gain = (k: number): number => 1 - 0.006 * (k - middle);
  for (let k = 0; k < frames; k++) {
    const { data } = filmScene(size.width, size.height, [{ plane: ground, frameFromGround: seen }], k, {
      noise: 1,
      gain: gain(k),
    });
    bytes.set(data.subarray(0, size.width * size.height), at(k));
    bytes.fill(128, at(k) + size.width * size.height, at(k) + pictureBytes(format));
  }
  const pictures = new OutputPictures(startKernels(kernelModule(), memory), options, scratch);
  for (const k of [4, 16]) {
    const others = fillFrames(carried, k, outputFromFrame(k), boxesOf(k), size, 20);
    pictures.make(
      ...([at(k), at(frames), outputFromFrame(k), null] as const),
      others.map(({ frame, outputFromFrame: matrix }) => ({ at: at(frame), outputFromFrame: matrix })),
    );
    const truth = filmScene(size.width, size.height, [{ plane: ground, frameFromGround: seen }], middle, {
      gain: gain(k),
    });
    const back = invert(outputFromFrame(k));
    let [squares, count] = [0, 0];
    for (let y = 2; y < size.height - 2; y++)
      for (let x = 2; x < size.width - 2; x++) {
        const p = apply(back, x + 0.5, y + 0.5);
        const isBare = p.x < 0 || p.y < 0 || p.x > size.width || p.y > size.height;
        // What another frame shows: all is seen but a corner or two.
        if (!isBare) continue;
        const isSeen = others.some(({ outputFromFrame: matrix }) => {
          const q = apply(invert(matrix), x + 0.5, y + 0.5);
          return q.x > 0 && q.y > 0 && q.x < size.width && q.y < size.height;
        });
        if (!isSeen) continue;
        squares += (bytes[at(frames) + y * size.width + x] - truth.data[y * truth.stride + x]) ** 2;
        count++;
      }
    expect(count).toBeGreaterThan(3000);
    expect(10 * Math.log10((255 * 255 * count) / squares)).toBeGreaterThan(34);
  }
});
