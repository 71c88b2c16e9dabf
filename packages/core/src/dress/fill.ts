import { flattenSpline } from '../geometry/closed-spline.js';
import type { Layer } from './layer.js';

/** A box of whole pixels on the frame that a layer was drawn on. */
export interface FillBox {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Pixels about the outlines by which the light of frames is compared. */
const rim = 12;

/** What is filled in of a clip: the box about the layer's outlines, with a rim. */
export function fillBox({ shape }: Pick<Layer, 'shape'>, clip: { width: number; height: number }): FillBox {
  const reach = rim + shape.featherOut + Math.max(-shape.choke, 0);
  const all = [shape.parts, ...shape.keys.map(({ parts }) => parts)].flat();
  const points = all.flatMap(({ spline }) => flattenSpline(spline));
  const within = (value: number, most: number): number => Math.min(Math.max(value, 0), most);
  const left = within(Math.floor(Math.min(...points.map(({ x }) => x)) - reach), clip.width - 2);
  const top = within(Math.floor(Math.min(...points.map(({ y }) => y)) - reach), clip.height - 2);
  const right = within(Math.ceil(Math.max(...points.map(({ x }) => x)) + reach), clip.width);
  const bottom = within(Math.ceil(Math.max(...points.map(({ y }) => y)) + reach), clip.height);
  return { left, top, width: Math.max(right - left, 2), height: Math.max(bottom - top, 2) };
}

/** What the picture of a fill goes by among pictures. */
export const fillName = ({ id, name }: Pick<Layer, 'id' | 'name'>): string => `fill of ${id || name}`;
