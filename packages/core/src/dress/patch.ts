import { flattenSpline } from '../geometry/closed-spline.js';
import { boxCorners } from '../geometry/quad.js';
import type { PixelBox } from '../render/warp-picture.js';
import type { LayerContent } from './content/contents.js';
import type { FillContent } from './content/fill.js';
import type { RepairContent } from './content/repair.js';
import type { Layer } from './layer.js';
import { strokeBox, strokeSets, strokesOn } from './stroke.js';

// A patch is a picture that is made of the clip's own frames: what is filled in, what is repaired by hand.

/** Pixels about a patch by which its light is compared with that of frames. */
const rim = 12;

export const isPatch = (content: LayerContent): content is FillContent | RepairContent =>
  content.kind === 'fill' || content.kind === 'repair';

/** The box of whole pixels about what a patch has of a clip, with a rim: about its outlines, or its strokes; null where it has none. */
export function patchBox(
  { shape, content }: Pick<Layer, 'shape' | 'content'>,
  clip: { width: number; height: number },
): PixelBox | null {
  const outlines = [shape.parts, ...shape.keys.map(({ parts }) => parts)].flat();
  const points =
    content.kind === 'repair'
      ? content.strokes.flatMap((stroke) => boxCorners(strokeBox(stroke)))
      : outlines.flatMap(({ spline }) => flattenSpline(spline));
  if (points.length === 0) return null;
  const reach = rim + shape.featherOut + Math.max(-shape.choke, 0);
  const within = (value: number, most: number): number => Math.min(Math.max(value, 0), most);
  const left = within(Math.floor(Math.min(...points.map(({ x }) => x)) - reach), clip.width - 2);
  const top = within(Math.floor(Math.min(...points.map(({ y }) => y)) - reach), clip.height - 2);
  const right = within(Math.ceil(Math.max(...points.map(({ x }) => x)) + reach), clip.width);
  const bottom = within(Math.ceil(Math.max(...points.map(({ y }) => y)) + reach), clip.height);
  return { left, top, right: Math.max(right, left + 2), bottom: Math.max(bottom, top + 2) };
}

/** What the picture of a patch on a frame goes by among pictures; empty where it shows nothing there. */
export function patchName(
  { id, name, content }: Pick<Layer, 'id' | 'name' | 'content'>,
  frame: number,
): string {
  if (content.kind !== 'repair') return `fill of ${id || name}`;
  const set = strokesOn(content, frame).join();
  return set && `repair of ${id || name} by ${set}`;
}

/** One frame for each picture that a patch has on some frames of its own. */
export const patchFrames = ({ first, last, content }: Layer): number[] =>
  content.kind === 'repair' ? strokeSets({ first, last, content }) : content.kind === 'fill' ? [first] : [];
