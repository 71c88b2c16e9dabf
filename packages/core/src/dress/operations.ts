import { flattenSpline } from '../geometry/closed-spline.js';
import { apply, matrixAt, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import { quadFromSquare, type Quad } from '../geometry/quad.js';
import { similarityMatrix } from '../geometry/similarity.js';
import type { BlendMode } from './blend.js';
import { scaleAbout } from './carry.js';
import { filmName, type CarriedLayer } from './film.js';
import {
  textName,
  type ColourContent,
  type ColourKey,
  type CoverContent,
  type Layer,
  type LayerShape,
  type Matte,
} from './layer.js';
import { layerPoseAt } from './layer-pose.js';

/** An outline on a frame, clip pixels. */
export interface Outline {
  points: readonly Point[];
  cut: boolean;
}

/** What of an operation is seen, on a frame: all where it has no outline. */
export interface MaskRecipe {
  outlines: readonly Outline[];
  featherIn: number;
  featherOut: number;
  choke: number;
  invert: boolean;
}

/** One thing that is done to the picture of a frame, clip pixels; they are done in order. */
export interface DressOperation {
  mask: MaskRecipe;
  content:
    | CoverContent
    | ColourContent
    | { kind: 'picture'; asset: string; /** From the unit square. */ frameFromPicture: Mat3 }
    /** A picture at its own size, from the clip's pixels about its middle. */
    | { kind: 'text'; asset: string; frameFromMiddle: Mat3 };
  blend: BlendMode;
  opacity: number;
  /** Another layer's shape, that it is kept inside or outside of. */
  matte: { mask: MaskRecipe; keep: Matte['keep'] } | null;
  key: ColourKey | null;
}

/** What has to be done to the picture of a frame, the lowest layer first. Layers come with the top one first. */
export function operationsAt(layers: readonly CarriedLayer[], frame: number): DressOperation[] {
  return layers.flatMap((one) => operationOf(one, layers, frame) ?? []).reverse();
}

/** Where a layer lies on a frame, and what of it is seen; null where a quad is none. */
function placedOn({ layer, carriage }: CarriedLayer, frame: number) {
  const { content, shape, keys } = layer;
  const pose = layerPoseAt(keys, frame);
  const outlines = shape.parts.map(({ spline, cut }) => ({ points: flattenSpline(spline), cut }));
  const quad = content.kind === 'picture' || content.kind === 'clip' ? quadOf(content.quad) : null;
  const middle =
    content.kind === 'text' ? content : middleOf(quad ?? outlines.flatMap(({ points }) => points));
  const matrix = multiply(matrixAt(carriage.frameFromLayer, frame), similarityMatrix(pose, middle));
  const grown = scaleAbout(matrix, middle);
  // What a picture's own quad leaves out is not seen: it has an edge like any outline.
  const parts = quad && outlines.length === 0 ? [{ points: quad, cut: false }] : outlines;
  const mask: MaskRecipe = {
    ...scaled(shape, grown),
    outlines: parts.map(({ points, cut }) => ({
      points: points.map(({ x, y }) => apply(matrix, x, y)),
      cut,
    })),
  };
  const square = quad && quadFromSquare(quad);
  return quad && !square ? null : { pose, matrix, grown, mask, square };
}

function operationOf(one: CarriedLayer, all: readonly CarriedLayer[], frame: number): DressOperation | null {
  const { layer } = one;
  const { content, first, last, hidden, blend, key } = layer;
  if (hidden || frame < first || frame > last) return null;
  const placed = placedOn(one, frame);
  if (!placed) return null;
  const { pose, matrix, grown, mask, square } = placed;
  const opacity = layer.opacity * pose.opacity;
  if (opacity <= 0) return null;
  return {
    mask,
    content:
      (content.kind === 'picture' || content.kind === 'clip') && square
        ? {
            kind: 'picture',
            asset:
              content.kind === 'picture' ? content.asset : filmName(content.clip, one.film?.[frame] ?? -1),
            frameFromPicture: multiply(matrix, square),
          }
        : content.kind === 'text'
          ? {
              kind: 'text',
              asset: textName(content),
              frameFromMiddle: multiply(matrix, translation(content.x, content.y)),
            }
          : content.kind === 'cover'
            ? { ...content, strength: Math.max(1, content.strength * pose.strength * grown) }
            : (content as ColourContent),
    blend,
    opacity,
    matte: matteOf(layer, all, frame),
    key,
  };
}

/** What holds a layer out on a frame: another's shape, hidden or not; beyond that one's span it is nowhere. */
function matteOf({ matte }: Layer, all: readonly CarriedLayer[], frame: number): DressOperation['matte'] {
  const other = matte && all.find(({ layer }) => layer.id === matte.layerId);
  if (!other) return null;
  const { first, last } = other.layer;
  const placed = frame < first || frame > last ? null : placedOn(other, frame);
  return { mask: placed?.mask ?? nowhere, keep: matte.keep };
}

/** A mask that is nothing anywhere: an outline without any inside. */
const nowhere: MaskRecipe = {
  ...{ featherIn: 0, featherOut: 0, choke: 0, invert: false },
  outlines: [{ points: [], cut: false }],
};

const scaled = ({ featherIn, featherOut, choke, invert }: LayerShape, by: number) => ({
  featherIn: featherIn * by,
  featherOut: featherOut * by,
  choke: choke * by,
  invert,
});

/** Eight numbers as four corners. */
export const quadOf = (q: readonly number[]): Quad => [
  { x: q[0], y: q[1] },
  { x: q[2], y: q[3] },
  { x: q[4], y: q[5] },
  { x: q[6], y: q[7] },
];

function middleOf(points: readonly Point[]): Point {
  const n = Math.max(1, points.length);
  return { x: points.reduce((s, p) => s + p.x, 0) / n, y: points.reduce((s, p) => s + p.y, 0) / n };
}
