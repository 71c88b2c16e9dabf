import { describe, expect, test } from '@jest/globals';
import { rectangleSpline } from '../geometry/closed-spline.js';
import { freshContent } from './content/contents.js';
import { evenTimes } from '../geometry/frame-times.js';
import { apply, matrixAt } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { Samples, SampleState } from '../track/samples.js';
import { regionOn } from '../track/region/region.js';
import { boxCorners } from '../geometry/quad.js';
import { carry, carryBy, tracksUnder, uncovered, type Carriers } from './carry.js';
import { carryLayers } from './film.js';
import { layerDefaults, type Layer } from './layer.js';
import { layerPoseAt } from './layer-pose.js';
import { operationsAt, partsAt, keyedMatrix } from './operations.js';

const frames = 12;
const clip = { width: 200, height: 120, pixelAspect: '1:1', times: evenTimes(frames, 25) };

/** Points of a thing that goes, turns and grows; the first is lost from frame 9 on. */
const thing = (k: number) =>
  similarityMatrix({ x: 3 * k, y: -k, rotation: 0.02 * k, scale: 1 + 0.01 * k }, { x: 80, y: 60 });
const places = [
  { x: 60, y: 40 },
  { x: 110, y: 44 },
  { x: 104, y: 86 },
  { x: 58, y: 80 },
];
const tracks = new Map(
  places.map((p, i) => {
    const samples = new Samples(frames);
    for (let k = 0; k < frames; k++) {
      const { x, y } = apply(thing(k), p.x, p.y);
      if (i > 0 || k < 9)
        samples.set(k, {
          x,
          y,
          rotation: 0.02 * k,
          scale: 1 + 0.01 * k,
          confidence: 1,
          state: k ? SampleState.tracked : SampleState.placed,
        });
    }
    return [`${i}`, samples] as const;
  }),
);
const carriers: Carriers = { clip, tracks, scene: null };

const layer: Layer = {
  ...{ id: 'cover', name: 'Cover', hidden: false, matte: null, key: null },
  ...{ first: 1, last: 10, frame: 0, blend: 'normal', opacity: 1, keys: [] },
  ...{ match: layerDefaults.match, motionBlur: layerDefaults.motionBlur },
  carrier: {
    kind: 'tracks',
    trackIds: ['0', '1'],
    model: 'similarity',
    position: true,
    rotation: true,
    scale: true,
  },
  content: { kind: 'cover', how: 'plain', colour: [0, 0, 0], strength: 10 },
  shape: {
    parts: [{ spline: rectangleSpline(70, 50, 90, 70), cut: false }],
    ...{ featherIn: 0, featherOut: 4, choke: 0, invert: false, carrier: null, keys: [] },
  },
};

describe('a layer is carried', () => {
  const at = (carrier: Partial<Layer['carrier']>, frame = 0) =>
    carry({ carrier: { ...layer.carrier, ...carrier }, frame }, carriers);
  test.each([
    ['two points', { trackIds: ['0', '1'] }],
    ['four points in perspective', { trackIds: ['0', '1', '2', '3'], model: 'perspective' }],
    ['one point with its turn and size', { trackIds: ['1'], model: 'similarity' }],
  ] as const)('by %s to where the thing is, though it is not under them', (_, carrier) => {
    const { frameFromLayer } = at(carrier);
    for (const p of [
      { x: 20, y: 100 },
      { x: 90, y: 60 },
    ]) {
      const [found, truth] = [apply(matrixAt(frameFromLayer, 7), p.x, p.y), apply(thing(7), p.x, p.y)];
      expect(Math.hypot(found.x - truth.x, found.y - truth.y)).toBeLessThan(0.05);
    }
  });

  test('by what is taken alone: position without turn and size', () => {
    const m = matrixAt(at({ rotation: false, scale: false }).frameFromLayer, 8);
    expect([m[0], m[1], m[3], m[4]]).toEqual([1, 0, 0, 1]);
    expect(m[2]).toBeGreaterThan(20);
  });

  test('from the frame that it was drawn on, where it stays wherever that is', () => {
    matrixAt(at({}, 5).frameFromLayer, 5).forEach((v, i) =>
      expect(v).toBeCloseTo([1, 0, 0, 0, 1, 0, 0, 0, 1][i], 9),
    );
    expect([...at({ kind: 'still' }).frameFromLayer.subarray(27, 36)]).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
  });

  test('and told where it is not known to cover: beside its span, and where what carries it was lost', () => {
    const carriage = at({ trackIds: ['0'], model: 'shift' });
    expect(uncovered(layer, carriage, { first: 0, last: 11 })).toEqual([0, 9, 10, 11]);
    expect(uncovered({ ...layer, hidden: true }, carriage, { first: 0, last: 1 })).toEqual([0, 1]);
  });
});

test('operations lie where the thing is, grown as it is, the lowest first and only those of the frame', () => {
  const carriage = carry(layer, carriers);
  const above: Layer = { ...layer, name: 'Above', opacity: 0.5, first: 8 };
  const all = operationsAt(
    [above, layer].map((one) => ({ layer: one, carriage })),
    8,
  );
  expect(all.map(({ opacity }) => opacity)).toEqual([1, 0.5]);
  const [corner] = all[0].mask.outlines[0].points;
  const truth = apply(thing(8), 70, 50);
  expect(Math.hypot(corner.x - truth.x, corner.y - truth.y)).toBeLessThan(0.05);
  expect(all[0].mask.featherOut).toBeCloseTo(4 * 1.08, 3);
  expect(operationsAt([{ layer, carriage }], 11)).toEqual([]);
  expect(operationsAt([{ layer: { ...layer, hidden: true }, carriage }], 5)).toEqual([]);
});

test('a pose is keyed: stepped, even, eased; size by factors', () => {
  const pose = { x: 0, y: 0, rotation: 0, scale: 1, opacity: 1, strength: 1 };
  const keys = [
    { ...pose, frame: 2, easing: 'linear' as const },
    { ...pose, frame: 6, x: 8, scale: 4, opacity: 0, easing: 'step' as const },
    { ...pose, frame: 9, x: 0, easing: 'ease' as const },
  ];
  expect(layerPoseAt(keys, 0)).toMatchObject({ x: 0, scale: 1 });
  expect(layerPoseAt(keys, 4)).toMatchObject({ x: 4, scale: 2, opacity: 0.5 });
  expect(layerPoseAt(keys, 8)).toMatchObject({ x: 8, scale: 4 });
  expect(layerPoseAt(keys, 11)).toMatchObject({ x: 0, scale: 1 });
});

test('another layer holds one out by its shape, hidden or not, as far as it is there', () => {
  const carriage = carry(layer, carriers);
  const walker: Layer = { ...layer, id: 'walker', hidden: true, first: 3, last: 5 };
  const sign: Layer = { ...layer, matte: { layerId: 'walker', keep: 'outside' } };
  const all = [sign, walker].map((one) => ({ layer: one, carriage }));
  const [operation] = operationsAt(all, 4);
  expect(operation.matte?.keep).toBe('outside');
  expect(operation.matte?.mask.outlines).toEqual(operation.mask.outlines);
  expect(operationsAt(all, 8)[0].matte?.mask.outlines).toEqual([{ points: [], cut: false }]);
  expect(operationsAt([all[0]], 4)[0].matte).toBeNull();
});

test('what is held out of a region holds a layer out, too, and goes with what carries that', () => {
  const spline = rectangleSpline(60, 40, 75, 60);
  const region = regionOn(
    5,
    [rectangleSpline(40, 30, 100, 90)],
    boxCorners({ left: 40, top: 30, right: 100, bottom: 90 }),
  );
  const holdOuts = [{ frame: 5, spline, trackId: '0' }];
  const regions = new Map([['board', { ...region, holdOuts }]]);
  const held: Layer = { ...layer, matte: { regionId: 'board', feather: 2, keep: 'outside' } };
  expect([...tracksUnder([{ ...held, carrier: layerDefaults.carrier }], regions)]).toEqual(['0']);
  const [one] = carryLayers([held], { ...carriers, regions }, new Map());
  const [{ matte }] = operationsAt([one], 8);
  expect(matte).toMatchObject({ keep: 'outside', mask: { featherOut: 2, invert: false } });
  const [corner] = matte?.mask.outlines[0].points ?? [];
  const samples = carriers.tracks.get('0') as Samples;
  const wanted = apply(matrixAt(carryBy([samples], clip, 5), 8), 60, 40);
  expect([corner.x, corner.y]).toEqual([wanted.x, wanted.y]);
  expect(Math.hypot(corner.x - 60, corner.y - 40)).toBeGreaterThan(5);
  // A region of which nothing is held out leaves all of it.
  const [none] = carryLayers([held], { ...carriers, regions: new Map([['board', region]]) }, new Map());
  expect(operationsAt([none], 8)[0].matte?.mask.outlines).toEqual([{ points: [], cut: false }]);
});

test('outlines go from key to key, and ride on something of their own', () => {
  const [a, b] = [rectangleSpline(0, 0, 10, 10), rectangleSpline(20, 0, 30, 30)].map((spline) => [
    { spline, cut: false },
  ]);
  const shape = {
    ...layer.shape,
    keys: [
      { frame: 2, easing: 'linear' as const, parts: a },
      { frame: 6, easing: 'step' as const, parts: b },
    ],
  };
  expect(partsAt(shape, 0)).toBe(a);
  expect(partsAt(shape, 4)[0].spline.knots[2]).toMatchObject({ x: 20, y: 20 });
  expect(partsAt(shape, 9)).toBe(b);
  const still: Layer = {
    ...layer,
    shape: { ...layer.shape, carrier: { ...layer.carrier, kind: 'still', trackIds: [] } },
  };
  const [one] = carryLayers([still], carriers, new Map());
  const [{ mask }] = operationsAt([one], 8);
  expect(mask.outlines[0].points[0]).toEqual({ x: 70, y: 50 });
});

test('while the shutter is open a layer goes by its share of the way to the frames beside', () => {
  const [one] = carryLayers([{ ...layer, motionBlur: { shutter: 0.5, samples: 9 } }], carriers, new Map());
  const [{ exposures }] = operationsAt([one], 6);
  expect(exposures.length).toBe(9);
  const [was, will] = [apply(thing(6), 80, 60), apply(thing(7), 80, 60)];
  const at = apply(thing(6), 80, 60);
  const [first, last] = [apply(exposures[0], at.x, at.y), apply(exposures[8], at.x, at.y)];
  // Eight ninths of half a frame's way.
  expect(last.x - first.x).toBeCloseTo((8 / 9) * 0.5 * (will.x - was.x), 1);
  expect(apply(exposures[4], at.x, at.y).x).toBeCloseTo(at.x, 6);
});

test('words are turned about their middle, keyed or not', () => {
  const text: Layer = {
    ...layer,
    content: { ...freshContent('text'), x: 40, y: 30, turn: Math.PI / 2 },
    carrier: { ...layer.carrier, kind: 'still', trackIds: [] },
  };
  const placed = (one: Layer) => {
    const [{ content }] = operationsAt(carryLayers([one], carriers, new Map()), 5);
    if (content.kind !== 'text') throw new Error('It is a text.');
    return content.frameFromMiddle;
  };
  // What is right of the middle comes to lie below it.
  expect(apply(placed(text), 10, 0).x).toBeCloseTo(40, 9);
  expect(apply(placed(text), 10, 0).y).toBeCloseTo(40, 9);
  const pose = { x: 5, y: 0, rotation: Math.PI / 2, scale: 2, opacity: 1, strength: 1 };
  const keyed: Layer = { ...text, keys: [{ ...pose, frame: 0, easing: 'step' }] };
  const middle = apply(keyedMatrix(keyed, 5), 40, 30);
  expect([middle.x, middle.y].map((v) => v.toFixed(6))).toEqual(['45.000000', '30.000000']);
  const { x, y } = apply(placed(keyed), 10, 0);
  expect([x, y].map((v) => Math.round(v))).toEqual([25, 30]);
});
