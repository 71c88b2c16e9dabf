import { expect, test } from '@jest/globals';
import { fromWindow, inWindow, panTime, wholeClip, windowWith, zoomTime } from './time-window.js';

test('what is under the pointer stays there while time is zoomed', () => {
  const near = zoomTime(wholeClip, 0.3, 4, 0.001);
  expect(near.to - near.from).toBeCloseTo(0.25, 12);
  expect(fromWindow(near, 0.3)).toBeCloseTo(0.3, 12);
  expect(inWindow(near, 0.3)).toBeCloseTo(0.3, 12);
  expect(zoomTime(near, 0.3, 1e-6, 0.001)).toEqual(wholeClip);
  const closest = zoomTime(near, 0.5, 1e6, 0.01);
  expect(closest.to - closest.from).toBeCloseTo(0.01, 12);
});

test('the window stays within the clip and comes to where it is wanted', () => {
  const window = { from: 0.2, to: 0.4 };
  expect(panTime(window, -5)).toEqual({ from: 0, to: 0.2 });
  expect(panTime(window, 0.5).from).toBeCloseTo(0.3, 12);
  expect(windowWith(window, 0.25)).toBe(window);
  expect(windowWith(window, 0.7).from).toBeCloseTo(0.6, 12);
  expect(windowWith(window, 0.99).to).toBeCloseTo(1, 12);
});
