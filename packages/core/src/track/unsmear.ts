import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import { refine, type Exposure, type Fit } from './refine.js';
import { carriedBy, smearArea, smearTemplate } from './smear.js';
import { smearsSeen } from './smears-seen.js';
import type { Template } from './template.js';

/** No more than this share of what was left over may be left. */
const better = 0.85;
/** Larger boxes than this are held well enough by all their pixels, and would take long. */
const mostPixels = 160 ** 2;

/**
 * Registers a template smeared as the picture is, from where it was found unsmeared: several times as exactly. Null where
 * smear does not explain what is left over.
 */
export function unsmear(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  sharp: Fit,
  known: Exposure | null,
): Fit | null {
  if (template.width * template.height > mostPixels) return null;
  const smears = smearsSeen(kernels, template, area, sharp);
  if (!smears) return null;
  const like = smearTemplate(kernels, template, smears.template);
  const { matrix: m } = sharp;
  const seen = smears.picture ? smearArea(kernels, area, carriedBy(m, smears.picture)) : area;
  const fit = like && refine(kernels, like, seen, m, known, { close: true, alone: true });
  return fit && fit.residual < better * sharp.residual && fit.score > sharp.score ? fit : null;
}
