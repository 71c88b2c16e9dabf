import { identity, invert, matrixAt, multiply, scaleAbout } from '../geometry/mat3.js';
import {
  CollapsedMotion,
  curvesOf,
  frameFromReference,
  isUndoable,
  motionMatrix,
  poseAt,
  stillCurves,
  type Motion,
} from '../solve/motion.js';
import type { HeldScene } from '../solve/hold-group.js';
import { motionOf, type SteadyClip } from '../steady/steady.js';
import type { Samples } from '../track/samples.js';
import { fromSquarePixels } from '../geometry/mat3.js';
import { regionOptions, type Region, type RegionOptions } from '../track/region/region.js';
import type { Carrier, Layer } from './layer.js';

/** How a layer is carried: nine numbers a frame, from the frame that it was drawn on; and frames on which that is a guess. */
export interface Carriage {
  frameFromLayer: Float64Array;
  /** Frames on which nothing that carries it was seen; those of the clip, 1 where so. */
  unseen: Uint8Array;
}

/** What a layer may ride on. */
export interface Carriers {
  clip: SteadyClip;
  /** The samples of each track, by its id. */
  tracks: ReadonlyMap<string, Samples>;
  scene: HeldScene | null;
  /** The regions whose hold-outs hold layers out, too, by their ids. */
  regions?: ReadonlyMap<string, Region>;
}

/** The tracks that some layers ride on, they or their outlines; and those that carry what holds them out with a region. */
export const tracksUnder = (
  layers: readonly Pick<Layer, 'carrier' | 'shape' | 'matte'>[],
  regions: ReadonlyMap<string, Region> = new Map(),
): Set<string> =>
  new Set(
    layers.flatMap(({ carrier, shape, matte }) => [
      ...[carrier, shape.carrier].flatMap((one) => (one?.kind === 'tracks' ? one.trackIds : [])),
      ...((matte && 'regionId' in matte && regions.get(matte.regionId)?.holdOuts) || []).flatMap(
        ({ trackId }) => trackId ?? [],
      ),
    ]),
  );

/** Works out how a layer is carried. What it rides on need not be under it. */
export function carry({ carrier, frame }: Pick<Layer, 'carrier' | 'frame'>, carriers: Carriers): Carriage {
  const { clip, tracks, scene } = carriers;
  const { frames } = clip.times;
  const used = carrier.trackIds.flatMap((id) => tracks.get(id) ?? []);
  const frameFromLayer = new Float64Array(9 * frames);
  const unseen = new Uint8Array(frames);
  const isStill =
    carrier.kind === 'still' ||
    (carrier.kind === 'tracks' && used.length === 0) ||
    (carrier.kind === 'scene' && !scene);
  const motion = isStill ? null : motionUnder(carrier, frame, used, carriers);
  if (!motion) {
    for (let k = 0; k < frames; k++) frameFromLayer.set(identity, 9 * k);
    if (carrier.kind !== 'still') unseen.fill(1);
    return { frameFromLayer, unseen };
  }
  const table = taken(motion, carrier);
  const collapsed = heldWhereCollapsed(table, motion);
  // A shot leaves a frame of its own alone: the layer's frame is put in its place.
  const back = invert(matrixAt(table, frame));
  for (let k = 0; k < frames; k++) {
    frameFromLayer.set(multiply(matrixAt(table, k), back), 9 * k);
    unseen[k] =
      carrier.kind === 'tracks'
        ? Number(!used.some((samples) => samples.found(k)))
        : Number(motion.support[k] === 0);
    if (collapsed.has(k)) unseen[k] = 1;
  }
  return { frameFromLayer, unseen };
}

/** What carries something that was drawn on a frame; null where that is none on it. */
function motionUnder(
  { kind, model }: Carrier,
  frame: number,
  used: readonly Samples[],
  { clip, scene }: Carriers,
): Motion | null {
  const settings = { referenceFrame: frame, model };
  try {
    return kind === 'tracks' ? motionOf(used, clip, settings, null) : motionOf([], clip, settings, scene);
  } catch (error) {
    if (error instanceof CollapsedMotion) return null;
    throw error;
  }
}

/** Has what comes to a point or a line on some frames stay as it was before; returns those frames. */
function heldWhereCollapsed(table: Float64Array, { pivot, pixelAspect, frames }: Motion): Set<number> {
  const collapsed = new Set<number>();
  for (let k = 0; k < frames; k++) {
    if (isUndoable(scaleAbout(matrixAt(table, k), { x: pivot.x / pixelAspect, y: pivot.y }))) continue;
    collapsed.add(k);
    table.set(k > 0 ? matrixAt(table, k - 1) : identity, 9 * k);
  }
  return collapsed;
}

/** How what is drawn on a frame goes with tracks: nine numbers a frame, clip pixels both. A region carries it in perspective. */
export function carryBy(tracks: readonly Samples[], clip: SteadyClip, frame: number): Float64Array {
  const model = tracks.some(({ corners }) => corners) ? 'perspective' : 'auto';
  return taken(motionOf(tracks, clip, { referenceFrame: frame, model }, null), allOfIt);
}

/** A region as tracking takes it, with what holds parts of it out where that is on each frame, by the tracks that are known. */
export const carriedRegion = (
  region: Region,
  tracks: ReadonlyMap<string, Samples>,
  clip: SteadyClip,
): RegionOptions =>
  regionOptions(region, ({ trackId, frame }) => {
    const samples = trackId === undefined ? undefined : tracks.get(trackId);
    return samples ? carryBy([samples], clip, frame) : null;
  });

const allOfIt = { position: true, rotation: true, scale: true };

/** A motion in the channels that are taken of it. */
function taken(
  motion: Motion,
  { position, rotation, scale }: Pick<Carrier, keyof typeof allOfIt>,
): Float64Array {
  const table = new Float64Array(9 * motion.frames);
  const isWhole = position && rotation && scale;
  const found = isWhole ? null : curvesOf(motion);
  const curves = found && { ...stillCurves(motion.frames) };
  if (found && curves) {
    if (position) Object.assign(curves, { x: found.x, y: found.y });
    if (rotation) curves.rotation = found.rotation;
    if (scale) curves.scale = found.scale;
  }
  for (let k = 0; k < motion.frames; k++)
    table.set(
      curves
        ? fromSquarePixels(motionMatrix(poseAt(curves, k), motion.pivot), motion.pixelAspect)
        : frameFromReference(motion, k),
      9 * k,
    );
  return table;
}

/** Frames of its span on which a cover cannot be told to lie where it should, and frames beside its span. */
export function uncovered(
  { first, last, hidden }: Pick<Layer, 'first' | 'last' | 'hidden'>,
  { unseen }: Carriage,
  range: { first: number; last: number },
): number[] {
  const frames: number[] = [];
  for (let k = range.first; k <= range.last; k++)
    if (hidden || k < first || k > last || unseen[k] === 1) frames.push(k);
  return frames;
}
