import { flattenSpline, splineBetween } from '../geometry/closed-spline.js';
import { keysAbout } from '../geometry/keys.js';
import {
  apply,
  identity,
  invert,
  matrixAt,
  multiply,
  scaleAbout,
  type Mat3,
  type Point,
} from '../geometry/mat3.js';
import { squareTo } from '../geometry/quad.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { eased } from '../steady/easing.js';
import { polygonOn } from '../track/region/region.js';
import { kindOfContent } from './content/contents.js';
import type { CarriedLayer } from './film.js';
import type { Layer, LayerShape, ShapePart } from './layer.js';
import { layerPoseAt } from './layer-pose.js';
import type { DressOperation, MaskRecipe } from './operation.js';
import { isPatch, patchName } from './patch.js';

/** What has to be done to the picture of a frame, the lowest layer first. Layers come with the top one first. */
export function operationsAt(layers: readonly CarriedLayer[], frame: number): DressOperation[] {
  return layers.flatMap((one) => operationOf(one, layers, frame) ?? []).reverse();
}

/** Where a layer lies on a frame, and what of it is seen; null where a quad is none. */
function placedOn({ layer, carriage, shapeCarriage = null, box = null }: CarriedLayer, frame: number) {
  const { content, shape, keys } = layer;
  const kind = kindOfContent(content);
  const pose = layerPoseAt(keys, frame);
  const outlines = partsAt(shape, frame).map(({ spline, cut }) => ({ points: flattenSpline(spline), cut }));
  const quad = kind.quad?.(content, box) ?? null;
  const middle = layerMiddle(layer, frame);
  const matrix = multiply(matrixAt(carriage.frameFromLayer, frame), similarityMatrix(pose, middle));
  const grown = scaleAbout(matrix, middle);
  // What a picture's own quad leaves out is not seen: it has an edge like any outline.
  const parts = quad && outlines.length === 0 ? [{ points: quad, cut: false }] : outlines;
  // Outlines may ride on something else than what they show.
  const own = shapeCarriage && outlines.length > 0 ? matrixAt(shapeCarriage.frameFromLayer, frame) : matrix;
  const mask: MaskRecipe = {
    ...(kind.isUnshaped && outlines.length === 0 ? unshaped : scaled(shape, grown)),
    outlines: parts.map(({ points, cut }) => ({
      points: points.map(({ x, y }) => apply(own, x, y)),
      cut,
    })),
  };
  const square = quad && squareTo(quad);
  return quad && !square ? null : { pose, matrix, grown, mask, square };
}

/** About what a layer is turned and sized, pixels on the frame that it was drawn on. */
export function layerMiddle({ content, shape }: Layer, frame: number): Point {
  const { middle, quad } = kindOfContent(content);
  return middleOf(
    middle?.(content) ??
      quad?.(content, null) ??
      partsAt(shape, frame).flatMap(({ spline }) => flattenSpline(spline)),
  );
}

/** Where a layer's keys put it on a frame, from where it was drawn. */
export const keyedMatrix = (layer: Layer, frame: number): Mat3 =>
  similarityMatrix(layerPoseAt(layer.keys, frame), layerMiddle(layer, frame));

function operationOf(one: CarriedLayer, all: readonly CarriedLayer[], frame: number): DressOperation | null {
  const { layer, box = null, film } = one;
  const { content, first, last, hidden, blend, key } = layer;
  if (hidden || frame < first || frame > last) return null;
  const placed = placedOn(one, frame);
  const opacity = placed ? layer.opacity * placed.pose.opacity : 0;
  if (!placed || opacity <= 0) return null;
  const { pose, matrix, grown, mask, square } = placed;
  const shown = kindOfContent(content).operate(content, {
    ...{ matrix, square, grown, box, strength: pose.strength },
    filmFrame: film?.[frame] ?? -1,
    patch: isPatch(content) ? patchName(layer, frame) : '',
  });
  return (
    shown && {
      ...{ mask, content: shown, blend, opacity },
      matte: matteOf(one, all, frame),
      ...{ key, match: layer.match, frame, layerId: layer.id },
      exposures: exposuresOf(one, frame, matrix),
    }
  );
}

const unshaped = { featherIn: 0, featherOut: 0, choke: 0, invert: false };

/** Where a layer is while the shutter is open, from where it is in the middle of that. */
function exposuresOf({ layer, carriage }: CarriedLayer, frame: number, matrix: Mat3): Mat3[] {
  const { motionBlur, keys } = layer;
  const count = Math.round(motionBlur.samples);
  if (motionBlur.shutter <= 0 || count < 2) return [identity];
  const last = carriage.frameFromLayer.length / 9 - 1;
  const middle = { x: 0, y: 0 };
  const at = (k: number): Mat3 =>
    multiply(matrixAt(carriage.frameFromLayer, k), similarityMatrix(layerPoseAt(keys, k), middle));
  const back = invert(at(frame));
  // By the frames beside it: nothing turns so far in half a frame that a straight line would not do.
  const beside = [frame - 1, frame + 1].map((k) =>
    k < 0 || k > last ? null : multiply(matrix, multiply(back, multiply(at(k), invert(matrix)))),
  );
  const [before, after] = [beside[0] ?? opposite(beside[1]), beside[1] ?? opposite(beside[0])];
  return Array.from({ length: count }, (_, i) => {
    const share = motionBlur.shutter * ((i + 0.5) / count - 0.5);
    const to = share < 0 ? before : after;
    return identity.map((v, j) => v + Math.abs(share) * (to[j] / to[8] - v)) as unknown as Mat3;
  });
}

/** As far the other way. */
const opposite = (matrix: Mat3 | null): Mat3 =>
  matrix ? (identity.map((v, j) => 2 * v - matrix[j] / matrix[8]) as unknown as Mat3) : identity;

/** What holds a layer out on a frame: what is held out of a region; another's shape, hidden or not; beyond that one's span it is nowhere. */
function matteOf(
  { layer: { matte }, heldOut }: CarriedLayer,
  all: readonly CarriedLayer[],
  frame: number,
): DressOperation['matte'] {
  if (!matte) return null;
  if ('regionId' in matte) {
    const outlines = (heldOut ?? []).map((one) => ({ points: polygonOn(one, frame), cut: false }));
    if (outlines.length === 0) return { mask: nowhere, keep: matte.keep };
    return { mask: { ...unshaped, outlines, featherOut: matte.feather }, keep: matte.keep };
  }
  const other = all.find(({ layer }) => layer.id === matte.layerId);
  if (!other) return null;
  const { first, last } = other.layer;
  const placed = frame < first || frame > last ? null : placedOn(other, frame);
  return { mask: placed?.mask ?? nowhere, keep: matte.keep };
}

/** A mask that is nothing anywhere: an outline without any inside. */
const nowhere: MaskRecipe = {
  ...unshaped,
  outlines: [{ points: [], cut: false }],
};

/** The outlines of a shape on a frame. Where two keys have not the same knots the earlier one's stand until the later. */
export function partsAt({ parts, keys }: LayerShape, frame: number): readonly ShapePart[] {
  if (keys.length === 0) return parts;
  const about = keysAbout(keys, frame);
  const { before: a, after: b } = about;
  const isLike =
    a.parts.length === b.parts.length &&
    a.parts.every(({ spline }, i) => spline.knots.length === b.parts[i].spline.knots.length);
  if (a === b || !isLike) return a.parts;
  const share = eased(about.share, a.easing);
  return a.parts.map(({ spline, cut }, i) => ({
    cut,
    spline: splineBetween(spline, b.parts[i].spline, share),
  }));
}

const scaled = ({ featherIn, featherOut, choke, invert }: LayerShape, by: number) => ({
  featherIn: featherIn * by,
  featherOut: featherOut * by,
  choke: choke * by,
  invert,
});

function middleOf(points: readonly Point[]): Point {
  const n = Math.max(1, points.length);
  return { x: points.reduce((s, p) => s + p.x, 0) / n, y: points.reduce((s, p) => s + p.y, 0) / n };
}
