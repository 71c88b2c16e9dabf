import type { Motion } from '../solve/motion.js';
import { steadyMotion, type SteadyClip, type SteadySettings } from './steady.js';

/** What a zoom buys. */
export interface TradePoint {
  zoom: number;
  /** RMS of the second differences of the picture's corners as they are seen, output pixels a frame squared. */
  shake: number;
}

/** The shake that a composed path leaves at a zoom. */
export function tradeAt(
  motion: Motion,
  clip: SteadyClip,
  settings: SteadySettings,
  zoom: number,
): TradePoint {
  const framing = { zoom, offsetX: 0, offsetY: 0 };
  const { report } = steadyMotion(motion, clip, {
    ...settings,
    mode: 'smooth',
    kind: 'composed',
    framing,
  });
  return { zoom, shake: report.shakeAfter };
}
