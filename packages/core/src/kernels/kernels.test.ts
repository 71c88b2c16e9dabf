import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, type Mat3 } from '../geometry/mat3.js';
import { makePlane, type Plane } from '../image/plane.js';
import { cutTemplate } from '../track/template.js';
import { parameterCount, shapes } from '../track/shape.js';
import { kernelModule } from '../testing/kernel-module.js';
import { correlate, halvePlane, quantise } from './plain/correlation.js';
import { cornerScore, flow as plainFlow } from './plain/flow.js';
import { descend, type Going } from './plain/descent.js';
import {
  blockSums,
  correlation,
  gather,
  medianResidual,
  moments,
  samplePatch,
  sampleRuns,
} from './plain/registration.js';
import { deviationIn, slopeIn } from './plain/windows.js';
import { TrackKernels } from './track-kernels.js';

// Every kernel against its plain twin, on random pictures, sizes and borders. Globals are looked up once: in the
// test runner each look costs.
const { imul, floor, abs, max, cos, sin } = Math;
const kernels = new TrackKernels(kernelModule());
const runs = { numRuns: 60 };

/** Random levels, now rough, now smooth, now nearly flat, in rows with a gap after them. */
const pictures = (least: number, most: number): fc.Arbitrary<Plane> =>
  fc
    .record({
      width: fc.integer({ min: least, max: most }),
      height: fc.integer({ min: least, max: most }),
      gap: fc.integer({ min: 0, max: 5 }),
      seed: fc.integer({ min: 1, max: 1e9 }),
      contrast: fc.constantFrom(1, 40, 255),
    })
    .map(({ width, height, gap, seed, contrast }) => {
      const stride = width + gap;
      const plane: Plane = { ...makePlane(stride, height), width, stride };
      let state = seed;
      plane.data.forEach((_, i) => {
        state = (imul(state, 1664525) + 1013904223) >>> 0;
        plane.data[i] = floor((state / 2 ** 32) * (contrast + 1));
      });
      return plane;
    });

const put = (bytes: Uint8Array): number => {
  const at = kernels.alloc(bytes.length + 64);
  kernels.bytes(at, bytes.length).set(bytes);
  return at;
};
const putFloats = (values: Float32Array): number => {
  const at = kernels.alloc(4 * values.length);
  kernels.floats(at, values.length).set(values);
  return at;
};
const integers = (at: number, count: number): number[] => {
  const bytes = kernels.bytes(at, 4 * count).slice();
  return [...new Int32Array(bytes.buffer, bytes.byteOffset, count)];
};
const doubles = (at: number, count: number): number[] =>
  Array.from({ length: count }, (_, i) => kernels.double(at, i));

/** Equal to single precision, seen against the largest of the numbers. */
function expectAlike(got: ArrayLike<number>, wanted: ArrayLike<number>, precision = 2e-5): void {
  expect(got.length).toBe(wanted.length);
  let scale = 1;
  for (let i = 0; i < wanted.length; i++) if (abs(wanted[i]) > scale) scale = abs(wanted[i]);
  for (let i = 0; i < wanted.length; i++) {
    const same = got[i] !== got[i] ? wanted[i] !== wanted[i] : abs(got[i] - wanted[i]) <= precision * scale;
    if (!same) expect({ i, got: got[i] }).toEqual({ i, got: wanted[i] });
  }
}

test('halving', () => {
  fc.assert(
    fc.property(pictures(2, 70), (picture) => {
      const half = halvePlane(picture);
      const out = kernels.alloc(half.data.length + 64);
      kernels.halvePlane(put(picture.data), picture.stride, picture.width, picture.height, out);
      expect([...kernels.bytes(out, half.data.length)]).toEqual([...half.data]);
    }),
    runs,
  );
});

test('correlation at every position', () => {
  fc.assert(
    fc.property(pictures(3, 30), pictures(30, 44), (template, picture) => {
      const [columns, rows] = [picture.width - template.width + 1, picture.height - template.height + 1];
      const packed = kernels.alloc(16 + 2 * ((template.width + 7) & ~7) * template.height);
      kernels.packTemplate(put(template.data), template.stride, template.width, template.height, packed);
      const scores = kernels.alloc(4 * columns * rows);
      kernels.correlate(
        ...[
          packed,
          template.width,
          template.height,
          put(picture.data),
          picture.stride,
          columns,
          rows,
          scores,
        ],
      );
      const wanted = Array.from({ length: columns * rows }, (_, i) =>
        correlate(template, picture, i % columns, floor(i / columns)),
      );
      expectAlike(kernels.floats(scores, columns * rows), wanted, 1e-6);
    }),
    runs,
  );
});

test('boxes as large as are summed at once do not overflow', () => {
  // 181 x 181 is the last that is looked at in eight places at once.
  for (const size of [181, 183]) {
    const white = makePlane(size + 9, size + 1);
    white.data.fill(255).fill(0, 0, 90 * white.stride);
    const at = put(white.data);
    const packed = kernels.alloc(16 + 2 * 184 * size);
    kernels.packTemplate(at, white.stride, size, size, packed);
    const scores = kernels.alloc(4 * 20);
    kernels.correlate(packed, size, size, at, white.stride, 10, 2, scores);
    const found = kernels.floats(scores, 20);
    for (let i = 0; i < 20; i++) expect(found[i]).toBeCloseTo(i < 10 ? 1 : correlateMoved(size), 6);
  }
});

/** What a box that is black above, white below comes to one row lower. */
const correlateMoved = (size: number): number => {
  const [p, q] = [(size - 90) / size, (size - 89) / size];
  return (p - p * q) / Math.sqrt(p * (1 - p) * q * (1 - q));
};

test('the largest box does not overflow', () => {
  const white = makePlane(1001, 401);
  white.data.fill(255).fill(0, 0, 300 * 1001);
  const packed = kernels.alloc(16 + 2 * 1008 * 401);
  const at = put(white.data);
  kernels.packTemplate(at, 1001, 1001, 401, packed);
  const score = kernels.alloc(4);
  kernels.correlate(packed, 1001, 401, at, 1001, 1, 1, score);
  expect(kernels.floats(score, 1)[0]).toBeCloseTo(1, 6);
});

test('rounding to bytes', () => {
  fc.assert(
    fc.property(
      fc.float32Array({ minLength: 12, maxLength: 12, min: -50, max: 300, noDefaultInfinity: true }),
      (levels) => {
        const out = kernels.alloc(12 + 64);
        kernels.quantise(putFloats(levels), 4, 4, 3, 77, out);
        expect([...kernels.bytes(out, 12)]).toEqual([...quantise(levels, 77)]);
      },
    ),
    runs,
  );
});

const poses: fc.Arbitrary<Mat3> = fc
  .record({
    x: fc.double({ min: -5, max: 65, noNaN: true }),
    y: fc.double({ min: -5, max: 65, noNaN: true }),
    // Upright, four pixels lie in one row, as they mostly do.
    angle: fc.oneof(...[3, 0.15, 0].map((most) => fc.double({ min: -most, max: most, noNaN: true }))),
    size: fc.double({ min: 0.5, max: 4.2, noNaN: true }),
    tilt: fc.constantFrom(0, 0, 0.004, -0.01),
  })
  .map(({ x, y, angle, size, tilt }) => {
    const [a, b] = [size * cos(angle), size * sin(angle)];
    return [a, -b, x, b, a, y, tilt, -tilt / 2, 1];
  });

test.each(['linear', 'cubic'] as const)('%s sampling under a box', (interpolation) => {
  fc.assert(
    fc.property(pictures(40, 60), poses, fc.constantFrom(7, 13, 21), (picture, m, size) => {
      // Crooked, so that no row of pixels falls upon them: there rounding may decide either way.
      const bounds = {
        left: 2.0137,
        top: 3.0271,
        right: picture.width - 2.0319,
        bottom: picture.height - 4.017,
      };
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      const count = ((size + 3) & ~3) * size;
      const out = kernels.alloc(4 * count);
      const cubic = interpolation === 'cubic' ? 1 : 0;
      const at = put(picture.data);
      const inside = kernels.samplePatch(at, picture.stride, ...box, size, size, ...m, cubic, out);
      const seen = kernels.floats(out, count);
      expect(inside).toBe(seen.filter((level) => level === level).length);
      // Weights are known to a sixteen-thousandth, places to 1e-5; neighbours differ by up to 255.
      const wanted = samplePatch(picture, bounds, size, size, m, interpolation);
      let edge = 0;
      wanted.forEach((level, i) => {
        if (Number.isNaN(level) !== Number.isNaN(seen[i])) edge++;
        else if (level === level) expect(abs(level - seen[i])).toBeLessThan(0.06);
      });
      expect(edge).toBeLessThanOrEqual(2);
    }),
    runs,
  );
});

test.each(['linear', 'cubic'] as const)('%s sampling of runs of a box', (interpolation) => {
  const places = fc.array(fc.integer({ min: -30, max: 30 }), { minLength: 2, maxLength: 40 });
  fc.assert(
    fc.property(pictures(40, 60), poses, places, (picture, m, numbers) => {
      const bounds = {
        left: 2.0137,
        top: 3.0271,
        right: picture.width - 2.0319,
        bottom: picture.height - 4.017,
      };
      const wholes = numbers.slice(0, numbers.length & ~1);
      const count = 4 * wholes.length;
      const [at, told, out] = [put(picture.data), kernels.alloc(4 * wholes.length), kernels.alloc(4 * count)];
      kernels.putIntegers(told, wholes);
      const inside = kernels.sampleRuns(
        ...[at, picture.stride, bounds.left, bounds.top, bounds.right, bounds.bottom],
        ...[told, count, ...m, interpolation === 'cubic' ? 1 : 0, out],
      );
      const seen = kernels.floats(out, count);
      expect(inside).toBe(seen.filter((level) => level === level).length);
      let edge = 0;
      sampleRuns(picture, bounds, wholes, m, interpolation).forEach((level, i) => {
        if (Number.isNaN(level) !== Number.isNaN(seen[i])) edge++;
        else if (level === level) expect(abs(level - seen[i])).toBeLessThan(0.06);
      });
      expect(edge).toBeLessThanOrEqual(2);
    }),
    runs,
  );
});

/** A template's levels, what was seen, and descent images, with holes in each. */
const registrations = fc
  .record({
    quads: fc.integer({ min: 1, max: 300 }),
    n: fc.integer({ min: 4, max: 10 }),
    seed: fc.integer({ min: 1, max: 1e9 }),
    holes: fc.constantFrom(0, 0.1, 0.6),
  })
  .map(({ quads, n, seed, holes }) => {
    let state = seed;
    const random = (): number => (state = (imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    const count = 4 * quads;
    const floats = (length: number, make: () => number): Float32Array => Float32Array.from({ length }, make);
    const level = floats(count, () => (random() < holes / 2 ? NaN : 200 * random() - 100));
    const seen = floats(count, () => (random() < holes ? NaN : 255 * random()));
    return { count, n, level, seen, descent: floats(count * n, () => 40 * random() - 20) };
  });

test('sums, median and normal equations of registration', () => {
  const out = kernels.alloc(8 * 80);
  const scratch = kernels.alloc(4 * 1024);
  fc.assert(
    fc.property(registrations, fc.boolean(), ({ count, n, level, seen, descent }, sharp) => {
      const [l, s, d] = [putFloats(level), putFloats(seen), putFloats(descent)];
      kernels.moments(l, s, 0, count, 90, out);
      expectAlike(doubles(out, 6), moments(level, seen, 90));
      const weight = kernels.alloc(4 * count);
      const exposure = { gain: 0.8, bias: 110, spread: 40, slack: 0.4 };
      const median = kernels.medianResidual(l, s, count, exposure.gain, exposure.bias, scratch);
      const sum = gather(descent, n, level, seen, exposure, sharp);
      if (sum.weight > 0) {
        // Counted in bins of a quarter.
        const wanted = medianResidual(level, seen, exposure.gain, exposure.bias);
        if (wanted < 63) expect(abs(median - wanted)).toBeLessThanOrEqual(0.25);
      }
      const { gain, bias, spread, slack } = exposure;
      const rest = [gain, bias, spread, slack, 1, Number(sharp), weight, scratch, out];
      kernels.gather(d, n, count, l, s, ...rest);
      const pairs = (n * (n + 1)) / 2;
      expectAlike(doubles(out, n), sum.right, 1e-4);
      expectAlike(doubles(out, n + 2).slice(n), [sum.weight, sum.squares]);
      expectAlike(doubles(out, n + 2 + pairs).slice(n + 2), sum.normal);
      const total = kernels.floats(weight, count).reduce((a, b) => a + b, 0);
      expect(abs(total - sum.weight)).toBeLessThan(1e-3 * max(sum.weight, 1));
    }),
    runs,
  );
});

test('memory that was freed is used again, and growing loses nothing', () => {
  const own = new TrackKernels(kernelModule());
  const first = own.alloc(1000);
  own.fill(first, 1000, 7);
  own.free(first, 1000);
  expect(own.alloc(990)).toBe(first);
  const far = own.alloc(5e6);
  own.fill(far, 5e6, 9);
  expect([own.bytes(first, 1000)[999], own.bytes(far, 5e6)[5e6 - 1]]).toEqual([7, 9]);
});

test('an address outside the memory is refused, not read', () => {
  expect(() => kernels.halvePlane(4e9, 64, 64, 64, 0)).toThrow();
});

/** A soft random picture, the same but moved by (dx, dy). */
function softPicture(seed: number, width: number, height: number, dx: number, dy: number): Plane {
  const plane = makePlane(width, height);
  const waves = Array.from({ length: 12 }, (_, i) => {
    const turn = (imul(seed + i, 2654435761) >>> 0) / 2 ** 32;
    const pitch = 0.08 + 0.03 * i;
    return { a: pitch * cos(7 * turn + i), b: pitch * sin(7 * turn + i), c: 20 * turn };
  });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let level = 128;
      for (const { a, b, c } of waves) level += 14 * sin(a * (x - dx) + b * (y - dy) + c);
      plane.data[y * width + x] = max(0, floor(level + 0.5));
    }
  return plane;
}

function pyramid(plane: Plane, levels: number): Plane[] {
  const all = [plane];
  while (all.length < levels) all.push(halvePlane(all[all.length - 1]));
  return all;
}

const levelTable = (planes: readonly Plane[]): number => {
  const at = kernels.alloc(16 * planes.length);
  const rows = planes.map((p) => [put(p.data), p.width, p.height, p.stride]);
  new Int32Array(kernels.bytes(at, 16 * planes.length).buffer, at, 4 * planes.length).set(rows.flat());
  return at;
};

test('sparse flow, also where windows leave the picture', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.double({ min: -6, max: 6, noNaN: true }),
      fc.double({ min: -6, max: 6, noNaN: true }),
      fc.constantFrom(7, 15, 21, 31),
      (seed, dx, dy, window) => {
        const before = pyramid(softPicture(seed, 120, 96, 0, 0), 3);
        const after = pyramid(softPicture(seed, 120, 96, dx, dy), 3);
        const points = [
          { x: 60.5, y: 48.5 },
          { x: 41.2, y: 60.8 },
          { x: 14.5, y: 80.5 },
          { x: 3.5, y: 3.5 },
        ];
        const coordinates = new Float64Array(points.flatMap(({ x, y }) => [x, y]));
        const bytes = new Uint8Array(coordinates.buffer);
        const [from, to] = [put(bytes), put(bytes)];
        const residuals = kernels.alloc(4 * points.length);
        const tables = [levelTable(before), levelTable(after)];
        kernels.flow(...tables, 3, from, to, points.length, window, 20, 0.001, residuals);
        points.forEach((point, i) => {
          const wanted = plainFlow(before, after, point, point, window, 20, 0.001);
          expectAlike(doubles(to + 16 * i, 2), [wanted.x, wanted.y], 1e-4);
          const [residual] = kernels.floats(residuals + 4 * i, 1);
          // The kernel blends with weights of 1/128.
          expect(abs(residual - wanted.residual)).toBeLessThan(0.6);
          expect(residual < 0).toBe(wanted.residual < 0);
        });
      },
    ),
    runs,
  );
});

test('sparse flow finds a known shift to a fiftieth of a pixel', () => {
  const before = pyramid(softPicture(5, 160, 120, 0, 0), 3);
  const after = pyramid(softPicture(5, 160, 120, 4.37, -2.81), 3);
  const point = new Uint8Array(new Float64Array([80.5, 60.5]).buffer);
  const to = put(point);
  const tables = [levelTable(before), levelTable(after)];
  kernels.flow(...tables, 3, put(point), to, 1, 21, 20, 0.001, kernels.alloc(4));
  const [x, y] = doubles(to, 2);
  expect(abs(x - 84.87)).toBeLessThan(0.02);
  expect(abs(y - 57.69)).toBeLessThan(0.02);
});

test('slope and deviation of windows, also over the border', () => {
  const places = fc.array(
    fc.record({
      x: fc.double({ min: -4, max: 60, noNaN: true }),
      y: fc.double({ min: -4, max: 60, noNaN: true }),
    }),
    {
      minLength: 1,
      maxLength: 6,
    },
  );
  fc.assert(
    fc.property(pictures(3, 50), places, fc.constantFrom(3, 9, 15, 31), (picture, points, window) => {
      const { data, width, height, stride } = picture;
      const coordinates = new Float64Array(points.flatMap(({ x, y }) => [x, y]));
      const out = kernels.alloc(8 * points.length);
      const at = put(new Uint8Array(coordinates.buffer));
      kernels.windowTexture(put(data), stride, width, height, at, points.length, window, out);
      points.forEach((point, i) => {
        const wanted = [slopeIn(picture, point, window), deviationIn(picture, point, window)];
        // Singles.
        expectAlike(kernels.floats(out + 8 * i, 2), wanted, 1e-3);
      });
    }),
    runs,
  );
});

test('the best corner of every cell, on every second row', () => {
  fc.assert(
    fc.property(pictures(20, 70), fc.constantFrom(8, 16), (picture, cell) => {
      const { width, height } = picture;
      const [columns, rows] = [floor(width / cell), floor(height / cell)];
      const out = kernels.alloc(12 * columns * rows);
      const scratch = kernels.alloc(76 * (width + 16));
      kernels.cornerCells(put(picture.data), picture.stride, width, height, cell, scratch, out);
      const got = kernels.floats(out, 3 * columns * rows);
      for (let row = 0; row < rows; row++)
        for (let column = 0; column < columns; column++) {
          let best = -1;
          for (let y = row * cell; y < (row + 1) * cell; y++)
            for (let x = column * cell; x < (column + 1) * cell; x++) {
              if (x < 5 || y < 6 || y % 2 === 1 || x >= width - 5 || y >= height - 4) continue;
              best = max(best, cornerScore(picture, x, y));
            }
          const [score, x, y] = got.subarray(3 * (row * columns + column));
          expect(abs(score - best)).toBeLessThan(1e-3 * max(1, best) + 0.05);
          if (score >= 0)
            expect(abs(cornerScore(picture, x, y) - score)).toBeLessThan(1e-3 * max(1, best) + 0.05);
        }
    }),
    runs,
  );
});

test('what each block of a template asks for', () => {
  const blocks = fc.constantFrom([1, 1], [2, 3], [3, 4]);
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), blocks, (seed, [across, down]) => {
      const [height, n] = [9, 4];
      const count = 12 * height;
      const noise = (offset: number, length: number): Float32Array =>
        Float32Array.from(
          { length },
          (_, i) => ((imul(seed + offset + i, 2654435761) >>> 0) / 2 ** 32 - 0.5) * 100,
        );
      const [descent, level, seen, weight] = [n * count, count, count, count].map((length, i) =>
        noise(i + 1, length),
      );
      seen[5] = NaN;
      const out = kernels.alloc(8 * (n + 3) * across * down);
      kernels.blockSums(
        ...[putFloats(descent), n, count, height, across, down, putFloats(level), putFloats(seen)],
        ...[1.25, 3, putFloats(weight), kernels.alloc(4 * count), out],
      );
      const light = { gain: 1.25, bias: 3 };
      const wanted = blockSums(descent, n, height, [across, down], level, seen, light, weight);
      expectAlike(doubles(out, wanted.length), wanted, 1e-5);
    }),
    runs,
  );
});

test('the way from a start to where a template fits', () => {
  let [landed, elsewhere, otherwise] = [0, 0, 0];
  fc.assert(
    fc.property(
      fc.record({
        seed: fc.integer({ min: 1, max: 1e6 }),
        dx: fc.double({ min: -2, max: 2, noNaN: true }),
        dy: fc.double({ min: -2, max: 2, noNaN: true }),
        size: fc.constantFrom(9, 21, 41),
        shape: fc.constantFrom(...shapes),
        aspect: fc.constantFrom(1, 16 / 11),
        pixels: fc.constantFrom('full' as const, 'lattice' as const, 'runs' as const),
        light: fc.constantFrom(null, { gain: 0.9, bias: 120 }),
        close: fc.boolean(),
        again: fc.boolean(),
        left: fc.constantFrom(0, 2),
        stiff: fc.constantFrom(0, 300),
        at: fc.constantFrom(60.5, 12.5),
      }),
      ({ seed, dx, dy, size, shape, aspect, pixels, light, close, again, left, stiff, at }) => {
        const before = { ...softPicture(seed, 120, 96, 0, 0), pixelAspect: aspect };
        const after = softPicture(seed, 120, 96, dx, dy);
        const box = { width: size, height: size };
        const template = cutTemplate(kernels, before, { x: at, y: 48.5 }, box, shape);
        const grid = template[pixels];
        const { width, height, count, spacing, inRuns } = grid;
        const n = 2 + parameterCount[shape];
        const { mean, reach } = template;
        const start: Mat3 = [1, 0, at, 0, 1, 48.5, 0, 0, 1];
        const bounds = { left: 2, top: 2, right: 118, bottom: 94 };
        const [fit, normal] = [8 * 17, 8 * n * n].map((bytes) => kernels.alloc(bytes));
        const [seen, weight] = [kernels.alloc(4 * count), kernels.alloc(4 * count)];
        const copy = {
          descent: kernels.floats(grid.descent, n * count).slice(),
          level: kernels.floats(grid.level, count).slice(),
        };
        const grain = kernels.double(grid.record, 10);
        // Against everything but shift.
        const damping = Float64Array.from({ length: n * n }, (_, i) =>
          i % (n + 1) || i / n < 4 ? 0 : stiff,
        );
        kernels.putDoubles(grid.damping, damping);
        const begins = inRuns ? integers(grid.runs, count / 4) : undefined;
        // As it would be had the template fitted itself, every pixel believed.
        const exactly = { gain: 1, bias: 0, spread: 1, slack: 0 };
        const itself = gather(copy.descent, n, copy.level, copy.level, exactly, false);
        const whole = Float64Array.from({ length: n * n }, (_, i) => {
          const [j, k] = [Math.min(floor(i / n), i % n), max(floor(i / n), i % n)];
          return itself.normal[j * n - (j * (j + 1)) / 2 + k];
        });
        const how: Going = {
          ...{ most: Infinity, close: close && light !== null, sameLight: false, enough: 0.015 },
          matrix: again ? { normal: whole, gathered: itself.weight, residual: left } : undefined,
        };
        kernels.putDoubles(fit, [...start, light?.gain ?? 0, light?.bias ?? 0, left, 0, itself.weight]);
        kernels.putDoubles(normal, whole);
        const ended = kernels.descend(
          ...[grid.record, n, shapes.indexOf(shape), put(after.data), after.stride],
          ...[bounds.left, bounds.top, bounds.right, bounds.bottom, fit],
          ...[how.most, Number(how.close), 0, Number(again), how.enough],
          ...[seen, weight, normal],
        );
        const wanted = descend(
          { ...copy, n, width, height, spacing, runs: begins, mean, shape, reach, aspect, grain, damping },
          ...[after, bounds, start, light, how],
        );
        // Medians are counted in bins of a quarter, so that steps differ by a hair; both end where steps are short.
        if (!ended || !wanted) return;
        landed++;
        if ((ended === 1) !== wanted.settled) otherwise++;
        const [got, mine] = [doubles(fit, 9) as unknown as Mat3, wanted.pose];
        const isFar = [
          [0, 0, 0.15],
          [size / 2, size / 2, 0.4],
          [-size / 2, size / 2, 0.4],
        ].some(([u, v, most]) => {
          const [a, b] = [apply(got, u, v), apply(mine, u, v)];
          return Math.hypot(a.x - b.x, a.y - b.y) > most;
        });
        const [gain, bias] = doubles(fit + 8 * 9, 2);
        if (isFar || abs(gain - wanted.gain) > 0.05 || abs(bias - wanted.bias) > 2) elsewhere++;
        const saw = kernels.floats(seen, count);
        const believed = kernels.floats(weight, count);
        expect(abs(kernels.double(fit, 14) - correlation(copy.level, saw))).toBeLessThan(1e-4);
        expect(abs(kernels.double(fit, 15) - correlation(copy.level, saw, believed))).toBeLessThan(1e-4);
      },
    ),
    { numRuns: 150 },
  );
  // Most of them get there; which of the hard ones do not may differ, and in thousands of runs one comes elsewhere.
  expect(landed).toBeGreaterThan(110);
  expect(elsewhere).toBeLessThanOrEqual(1);
  expect(otherwise).toBeLessThanOrEqual(3);
});
