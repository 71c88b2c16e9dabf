import { cellSeed } from './film.js';

// Marks as they are put up to be followed, their edges as soft as a lens makes them; levels about the mark's middle at (0, 0).

const { hypot, min, max, abs, exp, floor } = Math;

const dark = 90;
const light = 215;
const within = (distance: number): number => min(max(0.5 - distance / 2, 0), 1);
const lit = (share: number): number => dark + (light - dark) * share;

/** A disc of a radius. */
export const disc =
  (radius: number) =>
  (x: number, y: number): number =>
    lit(within(hypot(x, y) - radius));

/** Two light and two dark quarters that meet. */
export function crossing(x: number, y: number): number {
  const [right, below] = [within(-x), within(-y)];
  return lit(right * below + (1 - right) * (1 - below));
}

/** A plus sign with arms of a length, three pixels wide. */
export const plus =
  (length: number) =>
  (x: number, y: number): number => {
    const bar = (along: number, beside: number): number =>
      within(abs(along) - length) * within(abs(beside) - 1.5);
    return lit(max(bar(x, y), bar(y, x)));
  };

/** Grit: random specks of a pixel or two, no two places alike, on average at nothing. */
export function grit(x: number, y: number): number {
  const cell = 2.2;
  let level = 0;
  const [left, top] = [floor(x / cell), floor(y / cell)];
  for (let j = top - 1; j <= top + 1; j++)
    for (let i = left - 1; i <= left + 1; i++) {
      const seed = cellSeed(i, j);
      const [dx, dy] = [x - cell * (i + (seed & 15) / 16), y - cell * (j + ((seed >> 4) & 15) / 16)];
      level += (((seed >> 9) & 127) / 64 - 1) * exp(-(dx * dx + dy * dy) / 1.6);
    }
  return level;
}
