import type { Motion } from '../solve/motion.js';
import { rowMotionOf } from '../solve/row-motion.js';
import { place, viewOf } from '../framing/framing.js';
import { correctComposed, reportOn, type SteadyClip, type SteadySettings } from './steady.js';

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
  const { matrices } = correctComposed(motion, clip, { ...settings, framing });
  const view = viewOf(clip, settings.output);
  const { shakeAfter } = reportOn(
    motion,
    place(matrices, framing, view),
    view,
    settings.range,
    rowMotionOf(motion, clip.height),
  );
  return { zoom, shake: shakeAfter };
}
