import { describe, expect, test } from '@jest/globals';
import { cornerKnot } from '../../geometry/closed-spline.js';
import { apply, type Point } from '../../geometry/mat3.js';
import { poseMatrix } from '../../geometry/pose.js';
import type { Quad } from '../../geometry/quad.js';
import { warpModels } from '../../geometry/warp-model.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import {
  board,
  cornersAt,
  darkScreen,
  filmSize,
  FlatFilm,
  type FlatThing,
  type Hardship,
} from '../../testing/flat-thing.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { defaultFollowOptions } from '../options.js';
import { PointPass } from '../point/pass.js';
import { Reason } from '../sample-reason.js';
import { Samples, SampleState } from '../samples.js';
import { placeOfCorners } from './place-of-corners.js';
import {
  cornersFromCentre,
  faultOf,
  polygonOn,
  regionMatrix,
  regionOn,
  regionOptions,
  type HoldOut,
  type Region,
} from './region.js';
import { nothingThere } from './region-tracker.js';

const kernels = new TrackKernels(kernelModule());
const degree = Math.PI / 180;
/** As lenses and sensors see things. */
const real = { blur: 1.6, grain: 1 };

const regionAbout = (corners: readonly Point[]): Region =>
  regionOn(0, [{ knots: corners.map(cornerKnot) }], corners as unknown as Quad);

interface Run {
  /** RMS of the corners where it was found, and the largest distance of any of them, by frame; pixels. */
  rms: number;
  worst: number[];
  samples: Samples;
}

/** Follows a thing from its first frame on; its region is its own outline, or `drawn`. */
function follow(
  thing: FlatThing,
  hardship: Hardship,
  { drawn, keys = [0], from = 0 }: { drawn?: Region; keys?: number[]; from?: number } = {},
): Run {
  const film = new FlatFilm(thing, hardship);
  const region = drawn ?? regionAbout(cornersAt(thing, hardship, 0));
  const samples = new Samples(hardship.frames);
  samples.corners = cornersFromCentre(region);
  for (const k of keys) {
    const place = placeOfCorners(region, cornersAt(thing, hardship, k) as unknown as Quad, 'homography', {
      pixelAspect: '1:1',
    });
    if (place) samples.set(k, { ...place, confidence: 1, state: SampleState.placed });
  }
  const options = {
    ...defaultFollowOptions,
    model: 'homography' as const,
    below: 'mark' as const,
    region: regionOptions(region, () => null),
  };
  const pass = new PointPass(kernels, options, samples);
  for (let k = from; k < hardship.frames; k++) pass.look(film.shoot(k), k);
  pass.dispose();
  let [squares, count] = [0, 0];
  const worst: number[] = [];
  for (let k = from + 1; k < hardship.frames; k++) {
    const truth = cornersAt(thing, hardship, k);
    const off = samples.cornersAt(k).map(({ x, y }, i) => Math.hypot(x - truth[i].x, y - truth[i].y));
    worst[k] = Math.max(...off);
    if (!samples.found(k)) continue;
    squares += off.reduce((sum, d) => sum + d * d, 0) / 4;
    count++;
  }
  return { rms: Math.sqrt(squares / count), worst, samples };
}

const lostFrames = ({ samples }: Run): number[] =>
  Array.from({ length: samples.frames }, (_, k) => k).filter((k) => samples.state[k] === SampleState.lost);

// A third of a pixel is what a pinned picture may be off by; a sure place must be nearer than three quarters.
describe.each<[string, FlatThing]>([
  ['a board painted all over', board],
  ['a dark screen with few marks', darkScreen],
])('%s', (_, thing) => {
  test.each<[string, Partial<Hardship>]>([
    ['turned away by 50°', { yaw: 50 * degree }],
    ['grown and shrunk', { growth: 1 }],
    ['in light that goes up and down by a third', { light: 0.3 }],
    ['in grain', { grain: 5 }],
    ['blurred', { blur: 5 }],
    ['a quarter outside the picture', { outside: 0.25 }],
    ['with light passing over the glass', { reflections: 12 }],
  ])('is followed %s', (_name, hardship) => {
    const run = follow(thing, { ...real, frames: 12, ...hardship });
    expect(lostFrames(run)).toEqual([]);
    expect(run.rms).toBeLessThan(0.3);
    const sure = run.worst.filter((off, k) => run.samples.confidence[k] >= 0.8 && off > 0.75);
    expect(sure).toEqual([]);
  });

  test('is lost while something covers all of it, and found again', () => {
    const run = follow(thing, { ...real, frames: 22, cover: { first: 4, last: 18 } });
    expect(lostFrames(run)).toEqual(Array.from({ length: 15 }, (_, i) => 4 + i));
    expect(run.rms).toBeLessThan(0.3);
    expect(run.samples.reason[8]).toBe(Reason.missing);
  });

  test('with everything at half strength at once', () => {
    const run = follow(thing, {
      ...{ frames: 36, yaw: 25 * degree, growth: 0.5, light: 0.15, grain: 2.5, blur: 2.5, outside: 0.1 },
      ...{ bar: { share: 1 / 6, first: 5, last: 18 }, cover: { first: 24, last: 31 } },
    });
    expect(run.rms).toBeLessThan(0.3);
    expect(lostFrames(run).every((k) => k >= 24 && k <= 32)).toBe(true);
  });
});

test.each([
  ['a board', board, 0.1],
  // As bright as the screen's own frame, it must not be taken for that; at both ends it covers all of one side.
  ['a dark screen', darkScreen, 0.2],
] as const)(
  'a bar that nobody drew passes over a third of %s, and what it covers is left out',
  (_, thing, most) => {
    const run = follow(thing, { ...real, frames: 24, bar: { share: 1 / 3, first: 4, last: 21 } });
    expect(lostFrames(run)).toEqual([]);
    expect(run.rms).toBeLessThan(most);
  },
);

test('nothing drifts: each frame is registered to the key', () => {
  const run = follow(board, { ...real, frames: 45, yaw: 20 * degree });
  const late = run.worst.slice(-20);
  expect(Math.max(...late)).toBeLessThan(0.3);
});

test('a key elsewhere is passed through, and followed on from', () => {
  const hardship = { ...real, frames: 20, yaw: 30 * degree };
  const run = follow(board, hardship, { keys: [0, 10] });
  expect(run.samples.state[10]).toBe(SampleState.placed);
  expect(run.worst[10]).toBeLessThan(1e-3);
  expect(run.rms).toBeLessThan(0.3);
});

test('with a simpler model it goes as far as that tells', () => {
  // From one frame to the next it turns so little that every model holds its middle.
  const film = new FlatFilm(board, { ...real, frames: 6 });
  for (const model of warpModels) {
    const region = regionAbout(cornersAt(board, { frames: 6 }, 0));
    const samples = new Samples(6);
    samples.set(0, { ...region.centre, rotation: 0, scale: 1, confidence: 1, state: SampleState.placed });
    const options = { ...defaultFollowOptions, model, region: regionOptions(region, () => null) };
    const pass = new PointPass(kernels, options, samples);
    for (let k = 0; k < 2; k++) pass.look(film.shoot(k), k);
    pass.dispose();
    const place = samples.place(1);
    if (model === 'translation') expect([place.rotation, place.scale, place.tiltX]).toEqual([0, 1, 0]);
    if (model !== 'homography') expect(Math.abs(place.tiltX)).toBeLessThan(1e-9);
    const truth = cornersAt(board, { frames: 6 }, 1);
    const matrix = regionMatrix(place, region.centre);
    const middle = apply(matrix, region.centre.x, region.centre.y);
    const wanted = { x: (truth[0].x + truth[2].x) / 2, y: (truth[0].y + truth[2].y) / 2 };
    expect(Math.hypot(middle.x - wanted.x, middle.y - wanted.y)).toBeLessThan(1);
  }
});

describe('what cannot be followed is said before anything starts', () => {
  const fault = (...corners: [number, number][]): string | null =>
    faultOf(regionOn(0, [{ knots: corners.map(([x, y]) => cornerKnot({ x, y })) }]), '"Board"', filmSize);

  test.each<[string, [number, number][]]>([
    [
      '"Board" has an outline of fewer than three points.',
      [
        [10, 10],
        [90, 10],
      ],
    ],
    [
      '"Board" is a line: draw its outline about the thing, loosely.',
      [
        [10, 10],
        [90, 12],
        [400, 14],
      ],
    ],
    [
      '"Board" is too small to be followed whole: 98 pixels; follow a point there.',
      [
        [10, 10],
        [24, 10],
        [24, 17],
        [10, 17],
      ],
    ],
    [
      '"Board" lies outside the picture.',
      [
        [-90, 10],
        [-20, 10],
        [-20, 70],
        [-90, 70],
      ],
    ],
  ])('%s', (sentence, corners) => {
    expect(fault(...corners)).toBe(sentence);
  });

  test('nothing is told by a wall without a mark on it', () => {
    const plain: FlatThing = { width: 400, height: 300, level: () => 120 };
    const film = new FlatFilm(plain, { frames: 2, grain: 2 });
    const region = regionAbout([
      { x: 800, y: 450 },
      { x: 1100, y: 450 },
      { x: 1100, y: 650 },
      { x: 800, y: 650 },
    ]);
    const samples = new Samples(2);
    samples.set(0, { ...region.centre, rotation: 0, scale: 1, confidence: 1, state: SampleState.placed });
    const options = {
      ...defaultFollowOptions,
      model: 'homography' as const,
      region: regionOptions(region, () => null),
    };
    const pass = new PointPass(kernels, options, samples);
    expect(() => pass.look(film.shoot(0), 0)).toThrow(nothingThere);
  });
});

test('a hold-out that is keyed goes from one outline to the next, and with what carries it', () => {
  const box = (left: number) => ({
    knots: [
      { x: left, y: 10 },
      { x: left + 20, y: 10 },
      { x: left + 20, y: 60 },
    ].map(cornerKnot),
  });
  const holdOut: HoldOut = {
    ...{ frame: 0, spline: box(0), trackId: 'pole' },
    keys: [
      { frame: 2, spline: box(100) },
      { frame: 6, spline: box(140) },
    ],
  };
  const region = { ...regionAbout(cornersAt(board, { frames: 1 }, 0)), holdOuts: [holdOut] };
  const carried = new Float64Array(9 * 9);
  for (let k = 0; k < 9; k++) carried.set([1, 0, 0, 0, 1, 3 * k, 0, 0, 1], 9 * k);
  const [one] = regionOptions(region, () => carried).holdOuts;
  const firstOn = (frame: number): Point => polygonOn(one, frame)[0];
  expect([0, 2, 3, 6, 8].map((frame) => firstOn(frame))).toEqual([
    { x: 100, y: 10 },
    { x: 100, y: 16 },
    { x: 110, y: 19 },
    { x: 140, y: 28 },
    { x: 140, y: 34 },
  ]);
});

test('corners that are put on a frame give its whole place back', () => {
  const region = regionAbout([
    { x: 100, y: 100 },
    { x: 500, y: 90 },
    { x: 520, y: 380 },
    { x: 90, y: 400 },
  ]);
  const corners: Quad = [
    { x: 140, y: 120 },
    { x: 460, y: 60 },
    { x: 500, y: 420 },
    { x: 130, y: 380 },
  ];
  for (const pixelAspect of ['1:1', '16:11']) {
    const place = placeOfCorners(region, corners, 'homography', { pixelAspect });
    const samples = new Samples(1);
    samples.corners = cornersFromCentre(region);
    if (place) samples.set(0, { ...place, confidence: 1, state: SampleState.placed });
    const [w, h] = pixelAspect.split(':').map(Number);
    samples.cornersAt(0, w / h).forEach(({ x, y }, i) => {
      // Samples keep turn and tilt in single floats.
      expect(Math.hypot(x - corners[i].x, y - corners[i].y)).toBeLessThan(1e-3);
    });
  }
  const crossed: Quad = [corners[0], corners[2], corners[1], corners[3]];
  expect(placeOfCorners(region, crossed, 'homography', { pixelAspect: '1:1' })).toBeNull();
  const shifted = placeOfCorners(region, corners, 'translation', { pixelAspect: '1:1' });
  expect(shifted && poseMatrix(shifted).slice(0, 2)).toEqual([1, 0]);
});
