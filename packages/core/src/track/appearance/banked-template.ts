import { multiply, invert, type Mat3, type Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { readPatch } from '../image/read-patch.js';
import type { Analysis, TrackPicture } from '../image/analysis.js';
import { patchBytes, type Patch } from '../image/patch.js';
import type { Exposure, Fit } from '../register/registration.js';
import { searchTemplate, type Peak } from '../search/correlation-search.js';
import { turnAt } from '../../geometry/warp-model.js';
import { freeSearchTemplate, turnTemplate, type SearchTemplate } from '../search/search-template.js';
import { freeTemplate, type Template } from '../template/types.js';

/** One template of the point: the key's own, or one taken on the way when the appearance had changed. */
export interface BankedTemplate {
  template: Template;
  /** From the key's box to this one. */
  fromKey: Mat3;
  /** Drawn for the search as it was turned when last needed. */
  drawn: { matrix: Mat3; search: SearchTemplate } | null;
  exposure: Exposure | null;
  /** The best correlation it has had; 0 before it was used. */
  best: number;
  /** The last few fits, and the least expected error there was, pixels. */
  recent: Fit[];
  exact: number;
}

/** A template drawn for the search serves until a corner has moved by this many pixels. */
const drawnSlack = 0.7;

export const bankTemplate = (template: Template, fromKey: Mat3): BankedTemplate => ({
  template,
  fromKey,
  drawn: null,
  exposure: null,
  best: 0,
  recent: [],
  exact: Infinity,
});

export function freeBanked(kernels: TrackKernels, { template, drawn }: BankedTemplate): void {
  freeTemplate(kernels, template);
  if (drawn) freeSearchTemplate(kernels, drawn.search);
}

/** A part of the picture with the rectangle in it that the template stays inside. */
export interface SearchPatch extends Patch {
  inner: { left: number; top: number; width: number; height: number };
}

/** Where the template's own box lies when the key's lies at `pose`. */
export const ownPose = ({ fromKey }: BankedTemplate, pose: Mat3): Mat3 => multiply(pose, invert(fromKey));

/** The part of the picture about a pose of the key's box, so far around, in a room; null when it lies outside. */
export function cutAround(
  kernels: TrackKernels,
  picture: TrackPicture,
  analysis: Analysis,
  banked: BankedTemplate,
  pose: Mat3,
  reach: Point,
  scratch: string,
): SearchPatch | null {
  const { width, height, aspect } = banked.template;
  const own = ownPose(banked, pose);
  const left = Math.floor(own[2] / own[8]) - (width >> 1) - reach.x;
  const top = Math.floor(own[5] / own[8]) - (height >> 1) - reach.y;
  const inner = { left: 0, top: 0, width: width + 2 * reach.x, height: height + 2 * reach.y };
  if (left + inner.width <= 0 || top + inner.height <= 0) return null;
  if (left >= picture.width || top >= picture.height) return null;
  // A turned box hangs over the rectangle that its middle stays in.
  inner.left = inner.top = Math.ceil(Math.max(width, height) * overhang(own, aspect)) + 8;
  const across = inner.width + 2 * inner.left;
  const down = inner.height + 2 * inner.top;
  const at = kernels.scratch(scratch, patchBytes(across, down));
  const area = readPatch(kernels, picture, analysis, left - inner.left, top - inner.top, across, down, at);
  const { stride, bounds } = area;
  const [x, y] = [area.left, area.top];
  return { at: area.at, width: across, height: down, stride, left: x, top: y, bounds, inner };
}

/** How far a turned and grown box reaches beyond an upright one, against its longer side. */
function overhang(pose: Mat3, aspect: number): number {
  const { rotation, scale } = turnAt(pose, 0, 0, aspect);
  const turned = Math.abs(Math.sin(rotation)) + Math.abs(Math.cos(rotation));
  return Math.min(Math.max((scale * turned - 1) / 2, 0), 1.5);
}

/** Where in the area the look fits, as middles of its box in the picture, the best first. */
export function placesOf(
  kernels: TrackKernels,
  banked: BankedTemplate,
  area: SearchPatch,
  pose: Mat3,
): Peak[] {
  const { width, height } = banked.template;
  const x = area.left + area.inner.left + width / 2;
  const y = area.top + area.inner.top + height / 2;
  const peaks = searchTemplate(kernels, drawnFor(kernels, banked, ownPose(banked, pose)), area, area.inner);
  return peaks.map((peak) => ({ x: x + peak.x, y: y + peak.y, score: peak.score }));
}

/** The template as the search needs it, drawn anew only when it has turned visibly. */
function drawnFor(kernels: TrackKernels, banked: BankedTemplate, matrix: Mat3): SearchTemplate {
  const { drawn, template } = banked;
  const slack = drawnSlack / template.reach;
  if (drawn && [0, 1, 3, 4].every((i) => Math.abs(drawn.matrix[i] - matrix[i]) < slack)) return drawn.search;
  if (drawn) freeSearchTemplate(kernels, drawn.search);
  const search = turnTemplate(kernels, template, matrix);
  banked.drawn = { matrix, search };
  return search;
}
