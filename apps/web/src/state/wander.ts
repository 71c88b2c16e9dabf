import type { SteadyView } from '@lurn/contract';
import { apply, framingMatrix, invert, outputOf, viewOf, type Point } from '@lurn/core';
import { useDocument } from './document';
import { changeSteady } from './steadying';

export type WanderArea = NonNullable<SteadyView['within']>;

/** Pixels; less is a click. */
const leastSide = 8;

function framing() {
  const { clip, steady } = useDocument.getState();
  return clip && steady && framingMatrix(steady.framing, viewOf(clip, steady.output));
}

/** The area as it lies on the output. */
export function areaOnOutput({ left, top, right, bottom }: WanderArea): WanderArea | null {
  const outputFromSteadied = framing();
  if (!outputFromSteadied) return null;
  const [a, b] = [apply(outputFromSteadied, left, top), apply(outputFromSteadied, right, bottom)];
  return { left: a.x, top: a.y, right: b.x, bottom: b.y };
}

/** Lets what is followed wander between two places of the output. Returns whether they are far enough apart. */
export function wanderBetween(a: Point, b: Point): boolean {
  const outputFromSteadied = framing();
  if (!outputFromSteadied) return false;
  const back = invert(outputFromSteadied);
  const [p, q] = [apply(back, a.x, a.y), apply(back, b.x, b.y)];
  const within = {
    left: Math.min(p.x, q.x),
    top: Math.min(p.y, q.y),
    right: Math.max(p.x, q.x),
    bottom: Math.max(p.y, q.y),
  };
  if (Math.min(within.right - within.left, within.bottom - within.top) < leastSide) return false;
  changeSteady({ mode: 'smooth', within }, 'Wander area');
  return true;
}

export const wanderAnywhere = (): void => changeSteady({ within: undefined }, 'Wander area');

/** Lets it wander in the middle third of the output, to begin with. */
export function wanderInMiddle(): void {
  const { clip, steady } = useDocument.getState();
  if (!clip || !steady) return;
  const { width, height } = outputOf(viewOf(clip, steady.output));
  wanderBetween({ x: width / 3, y: height / 3 }, { x: (2 * width) / 3, y: (2 * height) / 3 });
}
