import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import { apply, defaultPointOptions, invert, PointTracker, TrackKernels, type Plane } from '@lurn/core';
import { frameBytes, indexClip, openClip, readFrames, type Clip, type ClipIndex } from '@lurn/media';
import { frameFromWorld, handHeld } from './camera.js';
import { cloudNoise, randomFrom } from './random.js';
import type { Truth } from './truth.js';

const kernels = new URL('kernels/kernels.wasm', import.meta.resolve('@lurn/core'));
const clipsFolder = new URL('../clips/', import.meta.url);

interface Pair {
  feature: string;
  from: number;
  to: number;
}

const pair = (feature: string, from: number, to: number): Pair => ({ feature, from, to });

describe.each([
  {
    name: 'quay',
    rate: '30000/1001',
    pairs: [
      pair('plate', 20, 26),
      pair('crate', 150, 156),
      pair('hook', 80, 84),
      pair('church clock', 200, 206),
    ],
  },
  {
    name: 'lantern',
    rate: '25/1',
    pairs: [
      pair('board', 40, 45),
      pair('milestone', 120, 124),
      pair('gate', 60, 66),
      pair('lantern band', 100, 102),
    ],
  },
])('$name', ({ name, rate, pairs }) => {
  const path = fileURLToPath(new URL(`${name}.mp4`, clipsFolder));
  const truth = JSON.parse(readFileSync(new URL(`${name}.truth.json`, clipsFolder), 'utf8')) as Truth;

  // Reading a whole clip takes seconds: once is enough.
  let opened: Promise<{ clip: Clip; index: ClipIndex }> | null = null;
  const open = () =>
    (opened ??= openClip(path).then(async (clip) => ({ clip, index: await indexClip(clip) })));

  test('the clip is what was promised: size, length, rate, colour tags, sound', async () => {
    const { clip, index } = await open();
    const { pts } = index;
    expect(`${clip.frameRate.numerator}/${clip.frameRate.denominator}`).toBe(rate);
    expect([clip.width, clip.height, pts.length]).toEqual([1920, 1080, truth.clip.frames]);
    const seconds = (pts.length * clip.frameRate.denominator) / clip.frameRate.numerator;
    expect(seconds).toBeGreaterThan(8);
    expect(seconds).toBeLessThan(12);
    expect(clip.colour).toEqual({ range: 'tv', space: 'bt709', primaries: 'bt709', transfer: 'bt709' });
    expect(clip.sound).toHaveLength(1);
  });

  test('features tell the same as their layer’s matrix', () => {
    for (const feature of truth.features) {
      const layer = truth.layers.find((l) => l.name === feature.layer);
      const [first] = feature.positions;
      const matrices = layer?.frameFromLayer ?? [];
      const { x: u, y: v } = apply(invert(matrices[0]), first.x, first.y);
      feature.positions.forEach(({ x, y }, k) => {
        const p = apply(matrices[k], u, v);
        expect(Math.hypot(p.x - x, p.y - y)).toBeLessThan(1e-3);
      });
    }
  });

  test.each(pairs)(
    'the picture shows what the truth says of "$feature", frames $from to $to',
    async ({ feature, from, to }) => {
      const { clip, index } = await open();
      const picture = async (frame: number): Promise<Plane> => {
        const data = new Uint8Array(frameBytes(clip, 'luma'));
        for await (const _ of readFrames(clip, {
          first: frame,
          last: frame,
          index,
          planes: 'luma',
          slot: () => data,
        }))
          break;
        return { data, width: clip.width, height: clip.height, stride: clip.width };
      };
      const positions = truth.features.find((f) => f.name === feature)?.positions ?? [];
      expect(positions[from].visible && positions[to].visible).toBe(true);
      const module = new WebAssembly.Module(readFileSync(fileURLToPath(kernels)));
      const tracker = new PointTracker(new TrackKernels(module), defaultPointOptions);
      tracker.setKey(await picture(from), { ...positions[from], rotation: 0, scale: 1 });
      const { x, y } = tracker.step(await picture(to));
      // Grain, coding and motion blur leave a few tenths; a wrong matrix would be pixels off.
      expect(Math.hypot(positions[to].x - x, positions[to].y - y)).toBeLessThan(0.35);
    },
  );
});

test('the camera shakes without repeating itself, and near things pass faster', () => {
  const camera = handHeld(() => ({ x: 0, y: 0 }));
  const second = Array.from({ length: 30 }, (_, k) => camera(k / 30).x);
  const later = Array.from({ length: 30 }, (_, k) => camera(5 + k / 30).x);
  expect(Math.max(...second.map((x, k) => Math.abs(x - later[k])))).toBeGreaterThan(5);
  const pose = { x: 100, y: 0, roll: 0, zoom: 1 };
  const shift = (factor: number): number => 960 - apply(frameFromWorld(pose, factor), 0, 0).x;
  expect([0.5, 1, 1.5].map(shift)).toEqual([50, 100, 150]);
});

test('random numbers and noise are the same for the same seed', () => {
  const [a, b, c] = [randomFrom(3), randomFrom(3), randomFrom(4)];
  const row = (random: () => number): number[] => Array.from({ length: 5 }, random);
  const first = row(a);
  expect(row(b)).toEqual(first);
  expect(row(c)).not.toEqual(first);
  const noise = cloudNoise(32, 8, 1);
  expect(cloudNoise(32, 8, 1)).toEqual(noise);
  expect(Math.max(...noise.map(Math.abs))).toBeLessThanOrEqual(1);
});
