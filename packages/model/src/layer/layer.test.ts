import { expect, test } from '@jest/globals';
import { freshContent } from '@lurn/core';
import { readRecipe, writeRecipe } from '../recipe.js';
import { readLayer } from './layer.js';

const square = {
  spline: {
    knots: [
      { x: 0, y: 0 },
      { x: 9, y: 0 },
      { x: 9, y: 9 },
    ],
  },
};
const cover = { name: 'Number', content: { kind: 'cover' }, shape: { parts: [square] } };

test('what a layer leaves out has its default: one averaged colour, on every frame, over the frame itself', () => {
  const layer = readLayer(cover, 40);
  expect(layer).toMatchObject({ first: 0, last: 39, frame: 0, blend: 'normal', opacity: 1, hidden: false });
  expect(layer.content).toEqual(freshContent('cover'));
  expect(layer.content).toMatchObject({ how: 'averaged' });
  expect(layer.carrier).toMatchObject({ kind: 'still', position: true });
  expect(layer.shape.parts[0]).toMatchObject({
    cut: false,
    spline: { knots: [{ x: 0, inX: 0, outY: 0 }, {}, {}] },
  });
});

test.each([
  [{ ...cover, colour: 1 }, 'Layer "Number": it has no "colour"; it has id, clipId, name'],
  [{ ...cover, last: 40 }, 'Layer "Number": frames 0 to 40 are no span of the clip; its frames are 0 to 39.'],
  [{ ...cover, frame: 44 }, 'it was drawn on frame 44'],
  [
    { ...cover, shape: { parts: [{ spline: { knots: square.spline.knots.slice(1) } }] } },
    '"shape.parts.0.spline.knots" takes 3 or more.',
  ],
  [{ ...cover, shape: { feather: 3 } }, '"shape" has no "feather"'],
  [{ ...cover, shape: {} }, 'it has no outline'],
  [
    { ...cover, content: { kind: 'hat' } },
    '"content" has a "kind": cover, colour, picture, clip, text, fill, repair.',
  ],
  [
    { ...cover, content: { kind: 'cover', how: 'fog' } },
    '"content.how" is one of averaged, plain, mosaic, blur.',
  ],
  ...[0, 1.5, 200].map((frames): [object, string] => [
    { ...cover, content: { kind: 'fill', frames } },
    '"content.frames" is a whole number from 1 to 61.',
  ]),
  [{ ...cover, blend: 'dissolve' }, '"blend" is one of normal, multiply'],
  [{ ...cover, opacity: 2 }, '"opacity" is a number from 0 to 1.'],
  [{ ...cover, carrier: { kind: 'tracks' } }, 'it is carried by tracks, but names none'],
  [{ ...cover, keys: [{ frame: 1 }] }, '"keys.0.easing" is one of step, linear, ease.'],
  [
    { name: 'Sign', content: { kind: 'picture', asset: 'sign.png', quad: [1, 2] } },
    'Layer "Sign": "content.quad" is a list of 8 numbers',
  ],
])('what is wrong is one sentence that names the layer: %#', (layer, message) => {
  expect(() => readLayer(layer, 40)).toThrow(message);
});

test.each([
  [{ points: [1, 2] }, '"content.strokes.0.points" is a list of 3 to 6000 numbers by 3'],
  [{ points: [1, 2, 3] }, '"content.strokes.0.points" is a list'],
  [{ how: 'smear', points: [1, 2, 1] }, '"content.strokes.0.how" is one of colour, clone, heal, erase.'],
  [{ points: [1, 2, 1], width: 0 }, '"content.strokes.0.width" is a number from 0.5 to 2000.'],
  [{ points: [1, 2, 1], from: 20 }, 'stroke 1: the frames of the clip are 0 to 19.'],
  [{ points: [1, 2, 1], brush: 1 }, '"content.strokes.0" has no "brush"'],
])('what is wrong with a stroke is one sentence: %#', (stroke, message) => {
  const layer = { name: 'Scratch', content: { kind: 'repair', strokes: [stroke] } };
  expect(() => readLayer(layer, 20)).toThrow(`Layer "Scratch": ${message}`);
});

test('a recipe has its layers in order; those beside one that stands alone are hidden; a track that is not there is named', () => {
  const clip = { name: 'quay.mp4', width: 96, height: 64, frames: 40 };
  const records = (views: object[]) => views.map((view, i) => ({ kind: 'layer', id: `${i}`, view }));
  const read = (views: object[]) =>
    readRecipe(writeRecipe(clip, records(views), {}), clip, () => new Uint8Array());
  const { layers, steady } = read([
    { ...cover, name: 'Below', position: 2 },
    { ...cover, name: 'Above', position: 1, solo: true },
  ]);
  expect(layers.map(({ name, hidden }) => [name, hidden])).toEqual([
    ['Above', false],
    ['Below', true],
  ]);
  expect(steady).toBeNull();
  expect(() => read([{ ...cover, carrier: { kind: 'tracks', trackIds: ['plate'] } }])).toThrow(
    'Layer "Number": it is carried by "plate", which is no track of the recipe.',
  );
});
