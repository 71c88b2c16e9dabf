import { multiply, matrixAt, apply } from '../geometry/mat3.js';
import { frameFromReference, type Motion } from '../solve/motion.js';
import { steadyMotion, type SteadyClip, type SteadySettings } from './steady.js';

/** What a zoom buys. */
export interface TradePoint {
  zoom: number;
  /** RMS of the second differences of the picture's corners as they are seen, output pixels a frame squared. */
  shake: number;
}

/**
 * The shake that remains: how unevenly the four corners of the reference picture move as they are seen, RMS of their second
 * differences over the range, output pixels.
 */
export function shakeOf(
  placements: Float64Array,
  motion: Motion,
  { width, height }: { width: number; height: number },
  { first, last }: { first: number; last: number },
): number {
  let [sum, count] = [0, 0];
  for (const [x, y] of [
    [0, 0],
    [width, 0],
    [0, height],
    [width, height],
  ]) {
    let [ax, ay, bx, by] = [0, 0, 0, 0];
    for (let k = first; k <= last; k++) {
      const seen = apply(multiply(matrixAt(placements, k), frameFromReference(motion, k)), x, y);
      if (k >= first + 2) {
        sum += (seen.x - 2 * bx + ax) ** 2 + (seen.y - 2 * by + ay) ** 2;
        count++;
      }
      [ax, ay, bx, by] = [bx, by, seen.x, seen.y];
    }
  }
  return count > 0 ? Math.sqrt(sum / count) : 0;
}

/** The shake that a composed path leaves at a zoom. */
export function tradeAt(
  motion: Motion,
  clip: SteadyClip,
  settings: SteadySettings,
  zoom: number,
): TradePoint {
  const framing = { zoom, offsetX: 0, offsetY: 0 };
  const { placements } = steadyMotion(motion, clip, {
    ...settings,
    mode: 'smooth',
    kind: 'composed',
    framing,
  });
  return { zoom, shake: shakeOf(placements, motion, clip, settings.range) };
}
