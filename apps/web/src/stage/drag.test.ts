import { expect, test } from '@jest/globals';
import { dragTo, startDrag } from './drag';

const scale = { x: 0.5, y: 0.25 };

test('what is dragged goes by where the pointer is, whatever steps it took', () => {
  const drag = startDrag({ x: 100, y: 50 }, { x: 10.3, y: 20.7 });
  for (const pointer of [
    { x: 12.9, y: 3 },
    { x: -400, y: 8.1 },
  ])
    expect(dragTo(drag, pointer, scale).drag).toBe(drag);
  expect(dragTo(drag, { x: 20.3, y: 20.7 }, scale).at).toEqual({ x: 120, y: 50 });
  expect(dragTo(drag, { x: 10.3, y: 20.7 }, scale).at).toEqual({ x: 100, y: 50 });
});

test('a hand made finer on the way goes on from where it is, without a jump', () => {
  let { drag, at } = dragTo(startDrag({ x: 0, y: 0 }, { x: 0, y: 0 }), { x: 50, y: 0 }, scale, true);
  expect(at).toEqual({ x: 100, y: 0 });
  ({ drag, at } = dragTo(drag, { x: 60, y: 10 }, scale, true));
  expect(at.x).toBeCloseTo(102, 12);
  expect(at.y).toBeCloseTo(4, 12);
  ({ drag, at } = dragTo(drag, { x: 60, y: 10 }, scale));
  ({ at } = dragTo(drag, { x: 61, y: 10 }, scale));
  expect(at.x).toBeCloseTo(104, 12);
});
