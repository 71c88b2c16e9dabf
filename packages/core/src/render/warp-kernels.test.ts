import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { translation, type Mat3 } from '../geometry/mat3.js';
import { kept, kernelHeap, makeKernelMemory, resamplings, startKernels } from '../kernels/kernels.js';
import { kernelModule } from '../testing/kernel-module.js';
import { shrinkPlane, warpPlane, type LevelPlane } from './warp.js';

test.each([8, 10] as const)(
  'the kernel of %i bits and its plain twin agree to one level for any matrix',
  (bits) => {
    const [w, h] = [72, 56];
    const bytes = (2 * w * h + 127) & ~63;
    const kernels = startKernels(kernelModule(), makeKernelMemory(kernelHeap + 2 * bytes));
    const Levels = bits === 8 ? Uint8Array : Uint16Array;
    const most = (1 << bits) - 1;
    const [drawn, made] = [0, bytes].map(
      (at) => new Levels(kernels.memory.buffer as ArrayBuffer, kernelHeap + at, w * h),
    );
    for (let i = 0; i < w * h; i++)
      drawn[i] = (most / 255) * (128 + 90 * Math.sin(i * 0.61) * Math.cos(i * 0.013) + (i % 7) * 4);
    const source: LevelPlane = { data: drawn.slice(), width: w, height: h, stride: w };
    const bounds = { left: 0, top: 0, right: w, bottom: h };
    // Small turns, and pixels at most four apart, go eight at a time.
    const turn = fc.oneof(...[1.5, 0.15].map((most) => fc.double({ min: -most, max: most, noNaN: true })));
    const grow = fc.double({ min: 0.4, max: 4.2, noNaN: true });
    const shift = fc.double({ min: -30, max: 30, noNaN: true });
    const slant = fc.constantFrom(0, 0, 0.0008, -0.0011);
    fc.assert(
      fc.property(
        turn,
        grow,
        shift,
        shift,
        slant,
        fc.constantFrom(...resamplings),
        fc.constantFrom(16, kept),
        (angle, growth, x, y, p, interpolation, fill) => {
          const [a, b] = [growth * Math.cos(angle), growth * Math.sin(angle)];
          const matrix: Mat3 = [a, -b, x + 36 - a * 36 + b * 28, b, a, y + 28 - b * 36 - a * 28, p, -p, 1];
          const target: LevelPlane = { data: new Levels(w * h).fill(7), width: w, height: h, stride: w };
          made.fill(7);
          warpPlane(source, target, matrix, bounds, interpolation, fill, most);
          const size = { width: w, height: h, stride: w * Levels.BYTES_PER_ELEMENT };
          const [from, to] = [kernelHeap, kernelHeap + bytes].map((at) => ({ at, ...size }));
          if (bits === 8) kernels.warpPlane(from, to, matrix, bounds, interpolation, fill);
          else kernels.warpDeepPlane(from, to, matrix, bounds, interpolation, fill, most);
          let differing = 0;
          target.data.forEach((level, i) => {
            if (Math.abs(level - made[i]) > 1) differing++;
          });
          // On the border a rounding may fall to either side; nowhere else.
          expect(differing).toBeLessThanOrEqual(2);
        },
      ),
      { numRuns: 60 },
    );
  },
);

test.each([8, 10] as const)(
  'planes of %i bits shrink to means, and pixels a frame reaches are marked',
  (bits) => {
    const [w, h] = [60, 36];
    const Levels = bits === 8 ? Uint8Array : Uint16Array;
    const each = Levels.BYTES_PER_ELEMENT;
    const kernels = startKernels(kernelModule(), makeKernelMemory(kernelHeap + 4 * w * h * each));
    const drawn = new Levels(kernels.memory.buffer as ArrayBuffer, kernelHeap, w * h);
    drawn.forEach((_, i) => (drawn[i] = (i * 7919) % (1 << bits)));
    const source: LevelPlane = { data: drawn, width: w, height: h, stride: w };
    const at = kernelHeap + w * h * each;
    for (const times of [2, 3, 4]) {
      const size = { width: w / times, height: h / times };
      const target: LevelPlane = { ...size, stride: w / times, data: new Levels((w / times) * (h / times)) };
      shrinkPlane(source, target, times);
      kernels.shrinkPlane(
        { at: kernelHeap, width: w, height: h, stride: w * each },
        { at, ...size, stride: size.width * each },
        times,
        bits > 8,
      );
      expect([...new Levels(kernels.memory.buffer as ArrayBuffer, at, target.data.length)]).toEqual([
        ...target.data,
      ]);
    }
    const bounds = { left: 0, top: 0, right: w, bottom: h };
    kernels.coverPlane(
      { at, width: w, height: h, stride: w * each },
      translation(10, -5),
      bounds,
      255,
      bits > 8,
    );
    const marked = new Levels(kernels.memory.buffer as ArrayBuffer, at, w * h);
    marked.forEach((level, i) => {
      const inside = (i % w) + 10 < w && Math.floor(i / w) - 5 >= 0;
      expect(level).toBe(inside ? 255 : 0);
    });
  },
);

test('beyond the frame its outermost pixels go on, where bounds allow it', () => {
  const [w, h] = [40, 30];
  const kernels = startKernels(kernelModule(), makeKernelMemory(kernelHeap + 2 * 2048));
  const drawn = new Uint8Array(kernels.memory.buffer as ArrayBuffer, kernelHeap, w * h);
  drawn.forEach((_, i) => (drawn[i] = 30 + (i % w)));
  const everywhere = { left: -1e9, top: -1e9, right: 1e9, bottom: 1e9 };
  const [from, to] = [kernelHeap, kernelHeap + 2048].map((at) => ({ at, width: w, height: h, stride: w }));
  for (const interpolation of resamplings) {
    kernels.warpPlane(from, to, translation(-8.25, 12.5), everywhere, interpolation, 0);
    const made = new Uint8Array(kernels.memory.buffer as ArrayBuffer, to.at, w * h);
    for (let y = 0; y < h; y++) {
      // Left of the frame there is its first column; within, the ramp.
      for (let x = 0; x < 8; x++) expect(made[y * w + x]).toBe(30);
      expect(Math.abs(made[y * w + 30] - (30 + 30 - 8.25))).toBeLessThanOrEqual(0.75);
    }
  }
});
