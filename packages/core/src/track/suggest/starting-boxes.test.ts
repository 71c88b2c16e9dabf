import { expect, test } from '@jest/globals';
import { defaultPointOptions } from '../options.js';
import { startingBoxes } from './starting-boxes.js';

const sides = (width: number, height: number): number[] => {
  const { template, search } = startingBoxes({ width, height });
  expect([template.height, search.height]).toEqual([template.width, search.width]);
  return [template.width, search.width];
};

test('the usual boxes from small video to full high definition, upright or not', () => {
  const usual = [defaultPointOptions.template.width, defaultPointOptions.search.width];
  for (const [width, height] of [
    [640, 360],
    [1280, 720],
    [1920, 1080],
    [1080, 1920],
    [320, 180],
  ])
    expect(sides(width, height)).toEqual(usual);
});

test('about a box that was asked for the search goes as far as about the usual one', () => {
  const clip = { width: 1920, height: 1080 };
  const template = { width: 101, height: 61 };
  expect(startingBoxes(clip, { template })).toEqual({ template, search: { width: 221, height: 181 } });
  const search = { width: 301, height: 301 };
  expect(startingBoxes(clip, { search }).template).toEqual(defaultPointOptions.template);
  expect(startingBoxes(clip, { template, search })).toEqual({ template, search });
});

test('smaller ones where they would take a quarter of the picture, larger ones where they would be specks', () => {
  expect(sides(160, 90)).toEqual([21, 81]);
  expect(sides(240, 135)).toEqual([31, 121]);
  // The square root of how much larger the picture is.
  expect(sides(3840, 2160)[0]).toBeCloseTo(41 * Math.SQRT2, -0.5);
  expect(sides(7680, 4320)[0]).toBeCloseTo(82, -0.5);
});
