import { smoothScale } from '../smooth.js';
import { expect, test } from '@jest/globals';
import { evenTimes } from '../../geometry/frame-times.js';
import { apply, invert, matrixAt, multiply, type Mat3 } from '../../geometry/mat3.js';
import { bareEdges, framingMatrix, overhang, place } from '../../framing/framing.js';
import { fitFraming } from '../../framing/fit-framing.js';
import { stillMotion } from '../../solve/motion.js';
import { correct } from '../correct.js';
import { composePath, correctionsOf } from './composed-path.js';

const size = { width: 960, height: 540 };

/** Hand-held: it stands, then pans, with a quick tremble, a slow sway, and some of each in turn and size. */
function walk(frames: number): Float64Array {
  const table = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) {
    const pan = k < 60 ? 0 : 1.6 * (k - 60);
    const [x, y] = [
      pan + 7 * Math.sin(k * 0.9) + 6 * Math.sin(k * 0.11 + 1) + 5 * Math.sin(k * 0.23),
      6 * Math.sin(k * 0.7 + 2) + 7 * Math.sin(k * 0.09) + 4 * Math.sin(k * 0.27),
    ];
    const angle = 0.006 * Math.sin(k * 0.5) + 0.003 * Math.sin(k * 1.7);
    const s = 1 + 0.004 * Math.sin(k * 0.31);
    const [a, b] = [s * Math.cos(angle), s * Math.sin(angle)];
    table.set([a, -b, 480 - a * 480 + b * 270 + x, b, a, 270 - b * 480 - a * 270 + y, 0, 0, 1], 9 * k);
  }
  return table;
}

/** RMS of the second differences of the picture's corners, as they are seen, pixels. */
function shake(placements: Float64Array, motion: Float64Array): number {
  const frames = placements.length / 9;
  let [sum, count] = [0, 0];
  const seen = (k: number, x: number, y: number) =>
    apply(multiply(matrixAt(placements, k), matrixAt(motion, k)), x, y);
  for (const [x, y] of [
    [0, 0],
    [size.width, 0],
    [0, size.height],
    [size.width, size.height],
  ])
    for (let k = 1; k + 1 < frames; k++) {
      const [a, b, c] = [seen(k - 1, x, y), seen(k, x, y), seen(k + 1, x, y)];
      sum += (a.x - 2 * b.x + c.x) ** 2 + (a.y - 2 * b.y + c.y) ** 2;
      count++;
    }
  return Math.sqrt(sum / count);
}

test('at the zoom that even smoothing needs a composed path leaves less than half of its shake, and no bare edge', () => {
  const frames = 240;
  const matrices = walk(frames);
  const motion = { ...stillMotion(frames, 0, { x: 480, y: 270 }), matrices, model: 'similarity' as const };
  const even = correct(motion, {
    mode: 'smooth',
    smoothSeconds: 0.6,
    times: evenTimes(frames, 25),
    channels: { x: true, y: true, rotation: true, scale: true },
  });
  const fit = fitFraming(even.matrices, 0, frames - 1, size);
  if (!fit) throw new Error('Even smoothing fits.');
  const { zoom } = fit.framing;
  const evenShake = shake(place(even.matrices, fit.framing, size), matrices);
  const path = composePath({ frameFromReference: matrices, size, first: 0, last: frames - 1, zoom });
  expect(path.fits).toBe(true);
  const corrections = correctionsOf(path, matrices, framingMatrix({ zoom, offsetX: 0, offsetY: 0 }, size));
  const placements = place(corrections, { zoom, offsetX: 0, offsetY: 0 }, size);
  expect(bareEdges(placements, 0, frames - 1, size)).toEqual([]);
  const composed = shake(placements, matrices);
  expect(composed).toBeLessThan(0.5 * evenShake);
  // No frame is zoomed more than was allowed: an output pixel is never less of the source than that.
  for (let k = 0; k < frames; k++) {
    const m = multiply(matrixAt(matrices, k), matrixAt(path.referenceFromOutput, k));
    expect(1 / Math.hypot(m[0], m[3])).toBeLessThan(zoom * (1 + 1e-6));
  }
});

test('what a frame is smaller for a moment takes no room from those about it', () => {
  const frames = 120;
  const matrices = walk(frames);
  for (let k = 0; k < frames; k++) {
    // A jitter in size of half a per cent, that even smoothing takes out.
    const jitter = 1 + 0.005 * Math.sin(2.1 * k);
    matrices.set(
      multiply(
        [jitter, 0, 480 * (1 - jitter), 0, jitter, 270 * (1 - jitter), 0, 0, 1],
        matrixAt(matrices, k),
      ),
      9 * k,
    );
  }
  const scale = Float64Array.from({ length: frames }, (_, k) =>
    Math.hypot(matrices[9 * k], matrices[9 * k + 3]),
  );
  const evenScale = smoothScale(scale, 0.6, evenTimes(frames, 25));
  const zoom = 1.06;
  const shakes = [undefined, evenScale].map((even) => {
    const path = composePath({
      frameFromReference: matrices,
      size,
      first: 0,
      last: frames - 1,
      zoom,
      evenScale: even,
    });
    expect(path.fits).toBe(true);
    for (let k = 0; k < frames; k++) {
      const m = multiply(matrixAt(matrices, k), matrixAt(path.referenceFromOutput, k));
      // As even smoothing zooms each frame, or less.
      const most = zoom * Math.max(1, (even?.[k] ?? 0) / scale[k]);
      expect(1 / Math.hypot(m[0], m[3])).toBeLessThan(most * (1 + 1e-6));
    }
    const corrections = correctionsOf(path, matrices, framingMatrix({ zoom, offsetX: 0, offsetY: 0 }, size));
    return shake(place(corrections, { zoom, offsetX: 0, offsetY: 0 }, size), matrices);
  });
  expect(shakes[1]).toBeLessThan(0.5 * shakes[0]);
});

test('frames outside the range have the path of its nearest end; a perspective motion keeps its edges, too', () => {
  const frames = 60;
  const matrices = walk(frames);
  for (let k = 0; k < frames; k++) {
    const tilt: Mat3 = [1, 0, 0, 0, 1, 0, 4e-5 * Math.sin(k / 3), 3e-5 * Math.cos(k / 4), 1];
    const centred = multiply(
      [1, 0, 480, 0, 1, 270, 0, 0, 1],
      multiply(tilt, [1, 0, -480, 0, 1, -270, 0, 0, 1]),
    );
    matrices.set(multiply(matrixAt(matrices, k), centred), 9 * k);
  }
  const path = composePath({ frameFromReference: matrices, size, first: 10, last: 49, zoom: 1.15 });
  expect(path.fits).toBe(true);
  for (let k = 10; k <= 49; k++) {
    const outputFromFrame = multiply(
      invert(matrixAt(path.referenceFromOutput, k)),
      invert(matrixAt(matrices, k)),
    );
    expect(Math.max(...overhang(outputFromFrame, size))).toBeLessThan(1e-6);
  }
  expect(matrixAt(path.referenceFromOutput, 3)).toEqual(matrixAt(path.referenceFromOutput, 10));
  expect(matrixAt(path.referenceFromOutput, 59)).toEqual(matrixAt(path.referenceFromOutput, 49));
});

test('a camera that comes nearer is followed in size: a little room is enough', () => {
  const frames = 90;
  const matrices = walk(frames);
  for (let k = 0; k < frames; k++) {
    const nearer = 1 + 0.3 * (k / frames);
    matrices.set(
      multiply(
        [nearer, 0, 480 * (1 - nearer), 0, nearer, 270 * (1 - nearer), 0, 0, 1],
        matrixAt(matrices, k),
      ),
      9 * k,
    );
  }
  expect(composePath({ frameFromReference: matrices, size, first: 0, last: 89, zoom: 1.05 }).fits).toBe(true);
});

test('where no path keeps the edges that is said', () => {
  const frames = 20;
  const matrices = walk(frames);
  const tilt: Mat3 = [1, 0, 0, 0, 1, 0, 6e-4, 0, 1];
  for (let k = 0; k < frames; k++) matrices.set(multiply(matrixAt(matrices, k), tilt), 9 * k);
  expect(composePath({ frameFromReference: matrices, size, first: 0, last: 19, zoom: 1.01 }).fits).toBe(
    false,
  );
});
