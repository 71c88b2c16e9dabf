import type { Point } from '@lurn/core';

/** Lines that points are drawn to: their x, or their y. */
export interface SnapLines {
  xs: readonly number[];
  ys: readonly number[];
}

function nearest(value: number, lines: readonly number[], within: number): number {
  let best = value;
  let least = within;
  for (const line of lines) {
    const distance = Math.abs(line - value);
    if (distance <= least) [best, least] = [line, distance];
  }
  return best;
}

/** A point brought onto lines that pass near enough; `within` in its own units, each direction by itself. */
export const snapToLines = (
  { x, y }: Point,
  { xs, ys }: SnapLines,
  within: { x: number; y: number },
): Point => ({
  x: nearest(x, xs, within.x),
  y: nearest(y, ys, within.y),
});

/** Directions that lines are brought to: level, upright, and halfway between. */
const eighth = Math.PI / 4;

/** The end of a line brought to a plain direction, when it is within `within` radians of one; its length stays. */
export function snapToDirection(from: Point, to: Point, within: number): Point {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const angle = Math.atan2(dy, dx);
  const plain = Math.round(angle / eighth) * eighth;
  if (Math.abs(angle - plain) > within) return to;
  const along = dx * Math.cos(plain) + dy * Math.sin(plain);
  return { x: from.x + along * Math.cos(plain), y: from.y + along * Math.sin(plain) };
}

/** Whether two stage points are near enough to be meant as one. */
export const isNear = (a: Point, b: Point, within = 9): boolean => Math.hypot(a.x - b.x, a.y - b.y) <= within;

/** How far an arrow key moves what it is pressed on, pixels: 1; 0.1 with Alt; 10 with Shift. Null for another key. */
export function nudgeBy(event: Pick<KeyboardEvent, 'key' | 'altKey' | 'shiftKey'>): Point | null {
  const step = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
  switch (event.key) {
    case 'ArrowLeft':
      return { x: -step, y: 0 };
    case 'ArrowRight':
      return { x: step, y: 0 };
    case 'ArrowUp':
      return { x: 0, y: -step };
    case 'ArrowDown':
      return { x: 0, y: step };
    default:
      return null;
  }
}
