import type { Placing } from '../framing/framing.js';
import { expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { shakeOf, type FeaturePath } from './shake.js';

const frames = 200;
const times = evenTimes(frames, 25);
const range = { first: 0, last: frames - 1 };
/** A pan, a swing of three pixels 25/8 times a second, and nothing down. */
const swing = (k: number): number => 3 * Math.sin((2 * Math.PI * k) / 8);

const paths: FeaturePath[] = [40, 90].map((from) => ({
  first: from,
  places: Float64Array.from({ length: 2 * 100 }, (_, i) =>
    i % 2 === 0 ? 300 + 2 * (i / 2) + swing(from + i / 2) : 200,
  ),
}));

/** Placements that move each frame by so much. */
function moved(by: (k: number) => number): Placing {
  const table = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) table.set([1, 0, by(k), 0, 1, 0, 0, 0, 1], 9 * k);
  return { placements: table, rows: null };
}

test('shake is told in pixels and by frequency; a pan is none', () => {
  const half = shakeOf(
    paths,
    moved((k) => -0.5 * swing(k)),
    times,
    range,
  );
  // A swing of three pixels is 3/√2 RMS, a little more where the smoothed path leans with it at the ends.
  const rms = 3 / Math.SQRT2;
  expect((half?.before ?? 0) / rms).toBeGreaterThan(0.98);
  expect((half?.before ?? 0) / rms).toBeLessThan(1.06);
  expect((half?.after ?? 0) / (half?.before ?? 1)).toBeCloseTo(0.5, 6);
  const peak = half?.spectrum.reduce((a, b) => (b.before > a.before ? b : a));
  expect(peak?.hertz).toBeCloseTo(25 / 8, 6);
  // RMS over both directions, of which only one swings.
  expect(peak?.before).toBeCloseTo(3 / Math.SQRT2, 1);
  expect(peak?.after).toBeCloseTo(1.5 / Math.SQRT2, 1);
  // A Hann window lets less than a twentieth of it through so far away.
  const far = half?.spectrum.filter(({ hertz }) => Math.abs(hertz - 25 / 8) > 1.5) ?? [];
  expect(Math.max(...far.map(({ before }) => before))).toBeLessThan(0.1);
});

test('what is taken out is gone; of too little nothing is told', () => {
  const out = shakeOf(
    paths,
    moved((k) => -swing(k)),
    times,
    range,
  );
  expect(out?.after).toBeLessThan(0.02);
  expect(
    shakeOf(
      paths,
      moved(() => 0),
      times,
      { first: 0, last: 50 },
    ),
  ).toBeNull();
  expect(
    shakeOf(
      [],
      moved(() => 0),
      times,
      range,
    ),
  ).toBeNull();
});
