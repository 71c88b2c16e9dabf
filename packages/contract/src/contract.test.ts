import 'reflect-metadata';
import { expect, test } from '@jest/globals';
import { plainToInstance, type ClassConstructor } from 'class-transformer';
import { validate } from 'class-validator';
import {
  NameRequest,
  NewTrackRequest,
  PlaceRequest,
  ScenePatch,
  SceneRequest,
  SteadyRequest,
  TrackPatch,
  TrackRunRequest,
  TracksInterpolateRequest,
  TracksPatchRequest,
  TracksSpanRequest,
} from './index.js';

async function faults<T extends object>(kind: ClassConstructor<T>, body: object): Promise<string[]> {
  const found = await validate(plainToInstance(kind, body), { whitelist: true, forbidNonWhitelisted: true });
  return found.map((fault) => fault.property);
}

const steady = {
  mode: 'smooth',
  smoothSeconds: 1.5,
  kind: 'composed',
  model: 'auto',
  spans: [{ kind: 'hold', first: 3, last: 9, ease: 2 }],
  keys: [{ frame: 2, x: 1, y: 0, rotation: 0, zoom: 1, easing: 'linear' }],
  strength: { x: 1, y: 1, rotation: 0.5, scale: 0, perspective: 1 },
  rollingShutter: { mode: 'share', share: 0.8 },
  within: { left: 320, top: 200, right: 640, bottom: 400 },
  varying: { restlessness: 0.3 },
  output: { width: 1080, height: 1920 },
  edge: 'blur',
  unfilled: 'stretch',
  resampling: 'nearest',
  channels: { x: true, y: true, rotation: false, scale: true },
  referenceFrame: 4,
  range: { first: 0, last: 99 },
  framing: { zoom: 1.2, offsetX: -3, offsetY: 0.5 },
};

test('what the page sends is taken', async () => {
  expect(await faults(NameRequest, { name: 'The Withy Ferry' })).toEqual([]);
  expect(
    await faults(NewTrackRequest, { x: 10.5, y: -3, frame: 0, template: { width: 41, height: 31 } }),
  ).toEqual([]);
  expect(await faults(TrackPatch, { hidden: true, search: { width: 200, height: 90 } })).toEqual([]);
  expect(await faults(TrackRunRequest, { trackIds: ['a'], direction: 'both', from: 7 })).toEqual([]);
  expect(await faults(SteadyRequest, { steady, label: 'Smoothing' })).toEqual([]);
});

test.each([
  [NameRequest, { name: '' }, 'name'],
  [NameRequest, { name: 'x'.repeat(121) }, 'name'],
  [PlaceRequest, { x: Infinity, y: 0 }, 'x'],
  [PlaceRequest, { x: 0, y: NaN }, 'y'],
  [PlaceRequest, { x: 0, y: 1e9 }, 'y'],
  [NewTrackRequest, { x: 0, y: 0, frame: -1 }, 'frame'],
  [NewTrackRequest, { x: 0, y: 0, frame: 1.5 }, 'frame'],
  [NewTrackRequest, { x: 0, y: 0, frame: 0, template: { width: 3, height: 41 } }, 'template'],
  [TrackPatch, { locked: 'yes' }, 'locked'],
  [TrackPatch, { position: 3 }, 'position'],
  [TrackRunRequest, { trackIds: [], direction: 'both', from: 0 }, 'trackIds'],
  [TracksPatchRequest, { trackIds: ['a'] }, 'patch'],
  [TracksPatchRequest, { trackIds: ['a'], patch: { threshold: 2 } }, 'patch'],
  [TracksSpanRequest, { trackIds: ['a'], span: { first: -1, last: 3 } }, 'span'],
  [TracksInterpolateRequest, { trackIds: ['a'], fill: { first: 0, last: 3, how: 'wavy' } }, 'fill'],
  [TrackRunRequest, { trackIds: ['a'], direction: 'sideways', from: 0 }, 'direction'],
  [SteadyRequest, { steady: { ...steady, smoothSeconds: -1 }, label: 'Smoothing' }, 'steady'],
  [
    SteadyRequest,
    { steady: { ...steady, framing: { ...steady.framing, zoom: 0 } }, label: 'Framing' },
    'steady',
  ],
  [SteadyRequest, { steady: { ...steady, channels: { x: true } }, label: 'Channels' }, 'steady'],
  [SteadyRequest, { steady: { ...steady, kind: 'wavy' }, label: 'Kind' }, 'steady'],
  [
    SteadyRequest,
    { steady: { ...steady, strength: { ...steady.strength, x: 1.5 } }, label: 'Strength' },
    'steady',
  ],
  [SteadyRequest, { steady: { ...steady, model: 'affine' }, label: 'Model' }, 'steady'],
  [
    SteadyRequest,
    { steady: { ...steady, output: { width: 1081, height: 1920 } }, label: 'Output size' },
    'steady',
  ],
  [SteadyRequest, { steady: { ...steady, edge: 'pink' }, label: 'Edges' }, 'steady'],
  [
    SteadyRequest,
    { steady: { ...steady, rollingShutter: { mode: 'share', share: 3 } }, label: 'Rolling shutter' },
    'steady',
  ],
  [
    SteadyRequest,
    { steady: { ...steady, keys: [{ ...steady.keys[0], zoom: 0 }] }, label: 'By hand' },
    'steady',
  ],
  [
    SteadyRequest,
    { steady: { ...steady, spans: [{ ...steady.spans[0], kind: 'wild' }] }, label: 'Stretches' },
    'steady',
  ],
  [SceneRequest, { within: [{ knots: [] }] }, 'within'],
  [ScenePatch, { hold: { shot: 0, group: 'first' } }, 'hold'],
  [SteadyRequest, { steady, label: '<b>' }, 'label'],
] as [ClassConstructor<object>, object, string][])(
  '%p refuses %j for its %s',
  async (kind, body, property) => {
    expect(await faults(kind, body)).toEqual([property]);
  },
);
