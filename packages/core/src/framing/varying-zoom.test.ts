import { describe, expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { fitFraming } from './fit-framing.js';
import { bareEdges, framingMatrix, overhang, placeVarying, viewOf, type View } from './framing.js';
import { varyingZoom } from './varying-zoom.js';

const frames = 250;
const clip = { width: 1280, height: 720, pixelAspect: '1:1' };
const last = frames - 1;

/** A hand that is calm but for two knocks. */
const corrections = Float64Array.from(
  Array.from({ length: frames }, (_, k) => {
    const knock = (at: number): number => 40 * Math.exp(-(((k - at) / 6) ** 2));
    return [
      ...similarityMatrix(
        {
          x: 5 * Math.sin(k * 0.7) + knock(60),
          y: 4 * Math.sin(k * 0.9) - knock(180),
          rotation: 0.004 * Math.sin(k),
          scale: 1,
        },
        { x: 640, y: 360 },
      ),
    ];
  }).flat(),
);

const views: [string, View][] = [
  ['its own size', viewOf(clip)],
  ['a square', viewOf(clip, { width: 600, height: 600 })],
  ['upright', viewOf(clip, { width: 1080, height: 1920 })],
];

function varied(view: View, restlessness: number, shots = [{ first: 0, last }]) {
  const fit = fitFraming(corrections, 0, last, view);
  if (!fit) throw new Error('There is a zoom for it.');
  const { framing } = fit;
  const times = evenTimes(frames, 25);
  const varying = varyingZoom(corrections, view, { framing, restlessness, times, shots, rows: null });
  return { framing, ...varying, placements: placeVarying(corrections, varying, view) };
}

describe.each(views)('a zoom that varies, in %s', (_, view) => {
  test.each([0, 0.3, 1])('shows no bare edge on any frame, at a restlessness of %d', (restlessness) => {
    const { placements, zooms } = varied(view, restlessness);
    expect(bareEdges(placements, 0, last, view)).toEqual([]);
    expect(Math.min(...zooms)).toBeGreaterThanOrEqual(1);
  });

  test('without restlessness it is the smallest constant one', () => {
    const { zooms, framing } = varied(view, 0);
    for (const zoom of zooms) expect(Math.abs(zoom / framing.zoom - 1)).toBeLessThan(1e-4);
  });

  test('with more it gives away less, no faster than it may, and without a kink', () => {
    const mean = (r: number): number => varied(view, r).zooms.reduce((sum, z) => sum + z, 0) / frames;
    expect(mean(0.3)).toBeLessThan(mean(0) - 1e-4);
    expect(mean(1)).toBeLessThan(mean(0.3) - 1e-3);
    const { zooms } = varied(view, 1);
    const pace = (k: number): number => Math.log(zooms[k] / zooms[k - 1]) * 25;
    for (let k = 2; k < frames; k++) {
      expect(Math.abs(pace(k))).toBeLessThan(0.08 + 1e-9);
      // From one way to the other it takes 31 frames at least.
      expect(Math.abs(pace(k) - pace(k - 1))).toBeLessThan((2 * 0.08) / 31 + 1e-3);
    }
  });
});

test('each shot has its own: nothing of a knock is carried over a cut', () => {
  const cut = 190;
  const { zooms } = varied(viewOf(clip), 1, [
    { first: 0, last: cut - 1 },
    { first: cut, last },
  ]);
  // More in one frame than there may be in a quarter of a second.
  expect(Math.log(zooms[cut - 1] / zooms[cut])).toBeGreaterThan(0.02);
});

describe('an output of its own size', () => {
  const still = Float64Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1]);

  test('at zoom 1 is just covered by the clip', () => {
    for (const [, view] of views) {
      const fit = fitFraming(still, 0, 0, view);
      expect(fit?.framing.zoom).toBe(1);
      const over = overhang(framingMatrix({ zoom: 1, offsetX: 0, offsetY: 0 }, view), view);
      expect(Math.max(...over)).toBeLessThan(1e-9);
      const less = overhang(framingMatrix({ zoom: 0.999, offsetX: 0, offsetY: 0 }, view), view);
      expect(Math.max(...less)).toBeGreaterThan(0.1);
    }
  });

  test('has square pixels: wide ones of the clip are made so', () => {
    const wide = viewOf({ width: 720, height: 576, pixelAspect: '64:45' }, { width: 1024, height: 576 });
    expect(framingMatrix({ zoom: 1, offsetX: 0, offsetY: 0 }, wide)[0]).toBeCloseTo(64 / 45, 9);
    expect(wide.window).toEqual({ width: 720, height: 576 });
  });

  test('a square one has room aside: what moves along needs no zoom', () => {
    const aside = Float64Array.from([1, 0, 90, 0, 1, 0, 0, 0, 1, 1, 0, -90, 0, 1, 0, 0, 0, 1]);
    expect(fitFraming(aside, 0, 1, viewOf(clip, { width: 600, height: 600 }))?.framing.zoom).toBe(1);
    expect(fitFraming(aside, 0, 1, viewOf(clip))?.framing.zoom).toBeGreaterThan(1.1);
  });
});
