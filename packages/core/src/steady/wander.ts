/** A rectangle of the steadied picture before framing, clip pixels, that what is followed may wander in. */
export interface WanderArea {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/**
 * Draws a path in about the middle between two bounds, as far as frames of a range ask for it; what is even stays so. Places are
 * those of the path and where it starts from.
 */
export function drawIn(
  path: Float64Array,
  from: number,
  [low, high]: readonly [number, number],
  { first, last }: { first: number; last: number },
): Float64Array {
  const middle = (low + high) / 2;
  let farthest = 0;
  for (let k = first; k <= last; k++) farthest = Math.max(farthest, Math.abs(from + path[k] - middle));
  const share = Math.min(1, (high - low) / 2 / Math.max(farthest, 1e-9));
  return path.map((value) => middle + share * (from + value - middle) - from);
}
