import { expect, test } from '@jest/globals';
import { carryLayers, filmsAt } from '../dress/film.js';
import { patchName } from '../dress/patch.js';
import { operationsAt } from '../dress/operations.js';
import { layerOf } from '../testing/layer-of.js';
import { evenTimes } from '../geometry/frame-times.js';
import { identity, apply } from '../geometry/mat3.js';
import { Samples, SampleState } from '../track/samples.js';
import { fillPicture, framesToFill } from './fill-picture.js';
import type { LayerPicture } from './picture-sampler.js';

const clip = { width: 160, height: 100, pixelAspect: '1:1', times: evenTimes(30, 25) };

/** What is painted on a wall that goes two pixels to the right a frame, by a lamp that goes up and down. */
const painted = (x: number, y: number): number => 110 + 40 * Math.sin(x * 0.21) + 30 * Math.cos(y * 0.17);
const lamp = (frame: number): number => 1 + 0.2 * Math.sin(frame * 0.6);

/** The wall, with someone green before it on some frames. */
function shot(frame: number): LayerPicture {
  const rgba = new Uint8Array(4 * clip.width * clip.height);
  for (let y = 0; y < clip.height; y++)
    for (let x = 0; x < clip.width; x++) {
      const passes = Math.abs(x - 6 * frame) < 14;
      const level = passes ? 0 : lamp(frame) * painted(x - 2 * frame, y);
      rgba.set([level, passes ? 200 : level, level, 255], 4 * (y * clip.width + x));
    }
  return { width: clip.width, height: clip.height, rgba };
}

const knots = [
  [60, 30],
  [100, 30],
  [100, 70],
  [60, 70],
].map(([x, y]) => ({ x, y }));

function carried(view: object = {}) {
  const samples = new Samples(30);
  for (let k = 0; k < 30; k++)
    samples.set(k, {
      x: 50 + 2 * k,
      y: 50,
      rotation: 0,
      scale: 1,
      confidence: 0.9,
      state: SampleState.tracked,
    });
  samples.state[3] = SampleState.lost;
  const layer = layerOf(
    {
      ...{ name: 'Wall', frame: 12, content: { kind: 'fill', frames: 13 } },
      ...{
        shape: { parts: [{ spline: { knots } }] },
        carrier: { kind: 'tracks', trackIds: ['wall'], model: 'shift' },
      },
      ...view,
    },
    30,
  );
  return carryLayers([layer], { clip, tracks: new Map([['wall', samples]]), scene: null }, new Map())[0];
}

test('who passes is gone, and what is behind is as it was, in the light of the frame it was drawn on', async () => {
  const one = carried();
  // Right there someone stands on that frame.
  expect(shot(12).rgba[4 * (50 * 160 + 72) + 1]).toBe(200);
  const filled = await fillPicture(one, one.box!, (frame) => Promise.resolve(shot(frame)));
  const [operation] = operationsAt([one], 12);
  if (operation.content.kind !== 'picture') throw new Error('A fill is drawn as a picture.');
  expect(operation.content.asset).toBe(patchName(one.layer, 12));
  let worst = 0;
  for (let y = 0; y < filled.height; y++)
    for (let x = 0; x < filled.width; x++) {
      const p = apply(
        operation.content.frameFromPicture,
        (x + 0.5) / filled.width,
        (y + 0.5) / filled.height,
      );
      if (p.x < 60 || p.x > 100 || p.y < 30 || p.y > 70) continue;
      const wanted = lamp(12) * painted(p.x - 0.5 - 24, p.y - 0.5);
      worst = Math.max(worst, Math.abs(filled.rgba[4 * (y * filled.width + x) + 1] - wanted));
    }
  // Levels are whole numbers, and between pixels they are mixed.
  expect(worst).toBeLessThan(5);
  expect(filmsAt([one], 12)).toEqual([]);
});

test('frames are taken evenly over the span, and none on which what carries it was lost', () => {
  expect(framesToFill(carried({ content: { kind: 'fill', frames: 3 }, first: 0, last: 8 }))).toEqual([
    1, 5, 7,
  ]);
  expect(framesToFill(carried({ first: 3, last: 3 }))).toEqual([12]);
  expect(carried().carriage.frameFromLayer.slice(9 * 12, 9 * 12 + 9)).toEqual(Float64Array.from(identity));
});
