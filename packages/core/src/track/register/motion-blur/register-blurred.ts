import type { TrackKernels } from '../../../kernels/track-kernels.js';
import type { Patch } from '../../image/patch.js';
import { registerFull, type Exposure, type Fit } from '../registration.js';
import { transformPath, blurPatch, blurTemplate } from './blur.js';
import { estimateBlur } from './estimate-blur.js';
import type { Template } from '../../template/types.js';

/** No more than this share of what was left over may be left. */
const better = 0.85;
/** Larger boxes than this are held well enough by all their pixels, and would take long. */
const mostPixels = 160 ** 2;

/**
 * Registers a template blurred as the picture is, from where it was found unblurred: several times as exactly. Null where
 * motion blur does not explain what is left over.
 */
export function registerBlurred(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  sharp: Fit,
  known: Exposure | null,
): Fit | null {
  if (template.width * template.height > mostPixels) return null;
  const blurs = estimateBlur(kernels, template, area, sharp);
  if (!blurs) return null;
  const like = blurTemplate(kernels, template, blurs.template);
  const { matrix: m } = sharp;
  const seen = blurs.picture ? blurPatch(kernels, area, transformPath(m, blurs.picture)) : area;
  const fit = like && registerFull(kernels, like, seen, m, known, { close: true, alone: true });
  return fit && fit.residual < better * sharp.residual && fit.score > sharp.score ? fit : null;
}
