import { describe, expect, test } from '@jest/globals';
import { apply, invert, multiply, scaling, type Mat3 } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { kernelHeap, makeKernelMemory, startKernels } from '../kernels/kernels.js';
import { kernelModule } from '../testing/kernel-module.js';
import {
  bareBoxes,
  edgeKinds,
  outputFormat,
  OutputPictures,
  unfilledKinds,
  scratchBytes,
  type OutputOptions,
} from './output-picture.js';
import { pictureBytes, planeLayout, type YuvFormat } from './yuv-picture.js';

const { abs, sin, cos, floor, round } = Math;
const source: YuvFormat = {
  width: 160,
  height: 96,
  subsampling: '420',
  siting: 'left',
  range: 'limited',
  bits: 8,
};

/** Soft enough to be compared at any place; nowhere black. */
const levelAt = (x: number, y: number): number =>
  120 + 50 * sin(x / 9) * cos(y / 11) + 20 * sin((x + y) / 23);

function drawn(
  options: Partial<OutputOptions>,
  outputFromFrame: Mat3,
  level: (x: number, y: number) => number = levelAt,
) {
  const all: OutputOptions = {
    source,
    size: { width: source.width, height: source.height },
    interpolation: 'cubic',
    edge: 'black',
    scale: 1,
    ...options,
  };
  const format = outputFormat(all);
  const step = (n: number): number => (n + 127) & ~63;
  const [from, to] = [kernelHeap, kernelHeap + step(pictureBytes(all.source))];
  const scratch = to + step(pictureBytes(format));
  const memory = makeKernelMemory(scratch + scratchBytes(all));
  const each = all.source.bits === 8 ? 1 : 2;
  const levels = all.source.bits === 8 ? new Uint8Array(memory.buffer) : new Uint16Array(memory.buffer);
  const deeper = 1 << (all.source.bits - 8);
  for (const { offset, width, height } of planeLayout(all.source)) {
    const [dx, dy] = [round(all.source.width / width), round(all.source.height / height)];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        // A chroma sample lies level with the left of its luma pixels.
        levels[from / each + offset + y * width + x] = round(deeper * level(dx * x + 0.5, dy * (y + 0.5)));
  }
  const pictures = new OutputPictures(startKernels(kernelModule(), memory), all, scratch);
  pictures.make(from, to, outputFromFrame, null);
  const planes = planeLayout(format).map(({ offset, width, height }) => ({
    width,
    height,
    at: (x: number, y: number): number => levels[to / each + offset + y * width + x] / deeper,
  }));
  return { format, planes };
}

/** Leaves bare edges on all sides. */
const small = similarityMatrix({ x: 5, y: -4, rotation: 0.06, scale: 0.8 }, { x: 80, y: 48 });
const back = invert(small);

describe('what lies beyond the edges', () => {
  /** Where a pixel of luma or chroma comes from. */
  const sourceOf = (plane: number, x: number, y: number) =>
    plane === 0 ? apply(back, x + 0.5, y + 0.5) : apply(back, 2 * x + 0.5, 2 * y + 1);
  const isNear = (p: { x: number; y: number }): boolean =>
    abs(p.x) < 3 || abs(p.y) < 3 || abs(p.x - 160) < 3 || abs(p.y - 96) < 3;
  const clamp = (v: number, most: number): number => (v < 0.5 ? 0.5 : v > most - 0.5 ? most - 0.5 : v);
  const fold = (v: number, most: number): number => {
    const w = ((v % (2 * most)) + 2 * most) % (2 * most);
    return w > most ? 2 * most - w : w;
  };

  test.each([
    ['stretch', clamp],
    ['mirror', fold],
  ] as const)('%s: every pixel comes from where it should, of luma and of chroma', (edge, carried) => {
    const { planes } = drawn({ edge }, small);
    planes.forEach(({ width, height, at }, i) => {
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const p = sourceOf(i, x, y);
          if (isNear(p)) continue;
          const wanted = levelAt(carried(p.x, 160), carried(p.y, 96));
          expect(abs(at(x, y) - wanted)).toBeLessThan(edge === 'stretch' && i > 0 ? 6 : 3);
        }
    });
  });

  test('black, and not to be seen: the fourth plane says where', () => {
    const { planes } = drawn({ edge: 'transparent' }, small);
    expect(planes).toHaveLength(4);
    const [luma, u, , alpha] = planes;
    for (let y = 0; y < 96; y++)
      for (let x = 0; x < 160; x++) {
        const p = sourceOf(0, x, y);
        if (isNear(p)) continue;
        const inside = p.x > 0 && p.x < 160 && p.y > 0 && p.y < 96;
        expect(alpha.at(x, y)).toBe(inside ? 255 : 0);
        if (!inside) expect([luma.at(x, y), u.at(floor(x / 2), floor(y / 2))]).toEqual([16, 128]);
      }
  });

  test.each(unfilledKinds)('where no frame fills an edge it is %s, if that is asked for', (kind) => {
    const { planes } = drawn({ edge: 'fill', unfilled: kind }, small);
    const { planes: wanted } = drawn({ edge: kind }, small);
    // Well beyond the seam.
    for (const [x, y] of [
      [2, 2],
      [150, 4],
      [80, 1],
      [3, 90],
    ])
      expect(planes[0].at(x, y)).toBe(wanted[0].at(x, y));
  });

  test('blurred: nothing is black, nothing sharp, and its light is the frame’s', () => {
    const { planes } = drawn({ edge: 'blur' }, small);
    const bare: number[] = [];
    for (let y = 1; y < 96; y++)
      for (let x = 1; x < 160; x++) {
        const [p, q] = [sourceOf(0, x, y), sourceOf(0, x - 1, y)];
        const isBare = (r: { x: number; y: number }): boolean =>
          r.x < -1 || r.x > 161 || r.y < -1 || r.y > 97;
        if (!isBare(p) || !isBare(q)) continue;
        bare.push(planes[0].at(x, y));
        expect(abs(planes[0].at(x, y) - planes[0].at(x - 1, y))).toBeLessThan(4);
      }
    const mean = bare.reduce((sum, v) => sum + v, 0) / bare.length;
    expect(bare.length).toBeGreaterThan(3000);
    expect(abs(mean - 120)).toBeLessThan(15);
  });

  test('in a frame that reaches everything they all are the same', () => {
    const large = similarityMatrix({ x: 2, y: 1, rotation: 0.02, scale: 1.2 }, { x: 80, y: 48 });
    const [first, ...others] = edgeKinds.map((edge) => drawn({ edge }, large).planes);
    for (const planes of others)
      for (let y = 0; y < 96; y++)
        for (let x = 0; x < 160; x++) expect(planes[0].at(x, y)).toBe(first[0].at(x, y));
  });

  test('bare boxes hold all that is bare, and nothing where nothing is', () => {
    expect(bareBoxes(scaling(1, 1), null, source, source)).toEqual([]);
    const boxes = bareBoxes(small, null, source, source);
    for (let y = 0; y < 96; y++)
      for (let x = 0; x < 160; x++) {
        const p = sourceOf(0, x, y);
        const isBare = p.x < 0 || p.x > 160 || p.y < 0 || p.y > 96;
        const isHeld = boxes.some((b) => x >= b.left && x < b.right && y >= b.top && y < b.bottom);
        if (isBare) expect(isHeld).toBe(true);
      }
    expect(bareBoxes([1, 0, 0, 0, 1, 0, 0.02, 0, -1], null, source, source)).toEqual([
      { left: 0, top: 0, right: 160, bottom: 96 },
    ]);
  });
});

describe('an output smaller than the source', () => {
  const half = { width: 80, height: 48 };
  const checks = (x: number, y: number): number => ((floor(x) + floor(y)) % 2 === 0 ? 40 : 200);

  test.each([8, 10] as const)(
    'takes means: what is finer than its pixels becomes even, of %d bits',
    (bits) => {
      const deep = { ...source, bits };
      const aside = multiply(scaling(0.5, 0.5), [1, 0, 0.3, 0, 1, 0.6, 0, 0, 1]);
      const { planes } = drawn({ source: deep, size: half, scale: 0.5 }, aside, checks);
      for (let y = 2; y < 46; y++)
        for (let x = 2; x < 78; x++) expect(abs(planes[0].at(x, y) - 120)).toBeLessThan(8);
      // The nearest pixel takes one or the other.
      const { planes: rough } = drawn({ size: half, scale: 0.5, interpolation: 'nearest' }, aside, checks);
      expect([40, 200]).toContain(rough[0].at(30, 20));
    },
  );

  test.each(['420', '422', '444'] as const)('%s: luma and chroma stay where they are', (subsampling) => {
    const { planes } = drawn(
      { source: { ...source, subsampling }, size: half, scale: 0.5 },
      scaling(0.5, 0.5),
    );
    planes.forEach(({ width, height, at }) => {
      const [dx, dy] = [round(80 / width), round(48 / height)];
      for (let y = 2; y < height - 2; y++)
        for (let x = 2; x < width - 2; x++) {
          const wanted = levelAt(2 * (dx * x + 0.5), 2 * dy * (y + 0.5));
          expect(abs(at(x, y) - wanted)).toBeLessThan(2);
        }
    });
  });

  test('of a third as well', () => {
    const { planes } = drawn({ size: { width: 54, height: 32 }, scale: 1 / 3 }, scaling(1 / 3, 1 / 3));
    for (let y = 1; y < 31; y++)
      for (let x = 1; x < 53; x++)
        expect(abs(planes[0].at(x, y) - levelAt(3 * (x + 0.5), 3 * (y + 0.5)))).toBeLessThan(3);
  });
});
