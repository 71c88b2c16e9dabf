import type { Point } from '@lurn/core';

/** A drag since the pointer went down, or since the hand became finer or coarser. */
export interface Drag {
  /** Where what is dragged lay then, in its own units, and where the pointer was, in stage pixels. */
  from: Point;
  pointer: Point;
  fine: boolean;
}

/** A fine hand moves things so much less than the pointer goes. */
const fineness = 0.1;

export const startDrag = (from: Point, pointer: Point): Drag => ({ from, pointer, fine: false });

/**
 * Where what is dragged lies now that the pointer is at `pointer`; `scale` is in stage pixels to one of its units. It
 * goes by the pointer's place, not by the sum of its steps: what those lose to rounding would add up. Returns the drag
 * to go on with, too.
 */
export function dragTo(
  drag: Drag,
  pointer: Point,
  scale: { x: number; y: number },
  fine = false,
): { drag: Drag; at: Point } {
  const gain = drag.fine ? fineness : 1;
  const at = {
    x: drag.from.x + (gain * (pointer.x - drag.pointer.x)) / scale.x,
    y: drag.from.y + (gain * (pointer.y - drag.pointer.y)) / scale.y,
  };
  return { drag: fine === drag.fine ? drag : { from: at, pointer, fine }, at };
}
