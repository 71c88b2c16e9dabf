import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { DressOperation } from '../dress/operation.js';
import { layerDefaults } from '../dress/layer.js';
import { identity } from '../geometry/mat3.js';
import { quadFromSquare } from '../geometry/quad.js';
import { kernelHeap, makeKernelMemory, spacedBytes, startKernels } from '../kernels/kernels.js';
import { kernelModule } from '../testing/kernel-module.js';
import { dressPicture } from './dress-picture.js';
import { layingBytes, LayingRoom } from './laying-room.js';
import type { LayerPicture } from './picture-sampler.js';
import { pictureBytes, type YuvFormat } from './yuv-picture.js';

const size = { width: 96, height: 64 };

/** Bright and dark, and seen through in part. */
const picture: LayerPicture = { width: 70, height: 50, rgba: new Uint8Array(4 * 70 * 50) };
picture.rgba.forEach((_, i) => {
  const [x, y] = [(i >> 2) % 70, Math.floor((i >> 2) / 70)];
  const wave = 128 + 100 * Math.sin(x / 5 + (i & 3)) * Math.cos(y / 7);
  picture.rgba[i] = (i & 3) === 3 ? Math.min(255, 4 * x) : wave;
});

test.each([
  [8, '420'],
  [8, '444'],
  [10, '422'],
] as const)('the kernels of %i bits, %s, and their plain twin agree to a level', (bits, subsampling) => {
  const format: YuvFormat = {
    ...size,
    ...{ bits: bits, subsampling: subsampling, siting: 'left', range: 'limited' },
  };
  const bytes = pictureBytes(format);
  const room = layingBytes(format, [picture]);
  const kernels = startKernels(kernelModule(), makeKernelMemory(kernelHeap + spacedBytes(bytes) + room));
  const laying = new LayingRoom(kernels, format, kernelHeap + spacedBytes(bytes), room);
  const Levels = bits === 8 ? Uint8Array : Uint16Array;
  const kept = new Levels(kernels.memory.buffer as ArrayBuffer, kernelHeap, bytes / Levels.BYTES_PER_ELEMENT);
  const plain = new Levels(kept.length);
  const corner = (x: number, y: number) =>
    fc.record({
      x: fc.double({ min: x - 25, max: x + 25, noNaN: true }),
      y: fc.double({ min: y - 18, max: y + 18, noNaN: true }),
    });
  fc.assert(
    fc.property(
      fc.tuple(corner(30, 20), corner(70, 20), corner(70, 45), corner(30, 45)),
      fc.double({ min: 0.1, max: 1, noNaN: true }),
      fc.integer({ min: 0, max: 8 }),
      (quad, opacity, feather) => {
        const matrix = quadFromSquare(quad);
        if (!matrix) return;
        const operation: DressOperation = {
          mask: {
            ...{ featherIn: 0, featherOut: feather, choke: 0, invert: false },
            outlines: [{ points: quad, cut: false }],
          },
          content: { kind: 'picture', asset: 'p', frameFromPicture: matrix },
          ...{ blend: 'normal', opacity, matte: null, key: null, match: layerDefaults.match },
          ...{ exposures: [identity], frame: 0, layerId: '' },
        };
        for (let i = 0; i < plain.length; i++) plain[i] = kept[i] = ((60 + ((i * 7919) % 120)) << bits) >> 8;
        const pictures = new Map([['p', picture]]);
        dressPicture(plain, format, [operation], pictures);
        dressPicture(kept, format, [operation], pictures, undefined, undefined, laying);
        const unit = 1 << (bits - 8);
        // The kernel's picture has bytes, and weights of single precision.
        let differing = 0;
        for (let i = 0; i < plain.length; i++) differing += Number(Math.abs(plain[i] - kept[i]) > unit);
        expect(differing).toBe(0);
      },
    ),
    { numRuns: 40 },
  );
});
