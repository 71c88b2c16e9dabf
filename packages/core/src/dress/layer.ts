import type { ClosedSpline } from '../geometry/closed-spline.js';
import type { MotionModel } from '../solve/fit-model.js';
import type { Easing } from '../steady/easing.js';
import type { BlendMode } from './blend.js';
import { colourKeyDefaults, type ColourKey, type Keep, type Match } from './operation.js';
import { contents, type LayerContent } from './content/contents.js';

export const carrierKinds = ['still', 'tracks', 'scene'] as const;
/** What a layer rides on, and what of that it takes. */
export interface Carrier {
  /** The frame itself; points that are followed; what is held of the scene. */
  kind: (typeof carrierKinds)[number];
  trackIds: readonly string[];
  model: MotionModel | 'auto';
  position: boolean;
  rotation: boolean;
  scale: boolean;
}

/** A closed outline that is added to what is seen of a layer, or cut out of it. */
export interface ShapePart {
  spline: ClosedSpline;
  cut: boolean;
}

/** What is seen of a layer, pixels of the clip on the frame that it was drawn on. */
export interface LayerShape {
  parts: readonly ShapePart[];
  /** Over how many pixels it fades, within its outline and beyond it. */
  featherIn: number;
  featherOut: number;
  /** By how many pixels the outline is drawn in; spread where negative. */
  choke: number;
  invert: boolean;
  /** What it rides on by itself; null where it goes along with the layer. */
  carrier: Carrier | null;
  /** Its outlines on other frames, in order; between them each knot goes from one to the other. */
  keys: readonly ShapeKey[];
}

/** Outlines on a frame, pixels on the frame that the layer was drawn on. */
export interface ShapeKey {
  frame: number;
  easing: Easing;
  parts: readonly ShapePart[];
}

/** Where a layer is put on a frame, beside where it was drawn, about its own middle, and how much of it is seen. */
export interface LayerPose {
  x: number;
  y: number;
  /** Radians, clockwise. */
  rotation: number;
  scale: number;
  /** A factor on its opacity, and on the strength of a cover. */
  opacity: number;
  strength: number;
}

export interface LayerKey extends LayerPose {
  frame: number;
  easing: Easing;
}

/**
 * Only where another layer's shape is, or only where it is not: a walker's outline has a sign hang behind the walker. Or where
 * what is held out of a region is, faded over so many pixels beyond it.
 */
export type Matte = { keep: Keep } & ({ layerId: string } | { regionId: string; feather: number });

/** Blur of a picture, a clip or words by how they move while the shutter is open. */
export interface MotionBlur {
  /** For how much of a frame that is, 0 to 1; 0 for none. */
  shutter: number;
  samples: number;
}

/** Something that is drawn once, on a frame, and carried along. */
export interface Layer {
  /** By which others name it; empty where none does. */
  id: string;
  name: string;
  hidden: boolean;
  /** The frames on which it is seen, both included. */
  first: number;
  last: number;
  /** The frame that it was drawn on. */
  frame: number;
  carrier: Carrier;
  content: LayerContent;
  shape: LayerShape;
  blend: BlendMode;
  /** 0 to 1. */
  opacity: number;
  matte: Matte | null;
  key: ColourKey | null;
  match: Match;
  motionBlur: MotionBlur;
  keys: readonly LayerKey[];
}

/** What stands in for what is not said of a layer. */
export const layerDefaults = {
  hidden: false,
  blend: 'normal',
  opacity: 1,
  matte: null,
  key: null,
  keys: [],
  match: { soften: 0, grain: 0, black: 0, white: 1 },
  motionBlur: { shutter: 0, samples: 8 },
  carrier: { kind: 'still', trackIds: [], model: 'auto', position: true, rotation: true, scale: true },
  shape: { parts: [], featherIn: 0, featherOut: 0, choke: 0, invert: false, carrier: null, keys: [] },
} as const satisfies Partial<Layer>;

/** A layer with what is not said of it at its default. */
export const completeLayer = <L extends Layer>(kept: L): L => ({
  ...layerDefaults,
  ...kept,
  carrier: { ...layerDefaults.carrier, ...kept.carrier },
  shape: { ...layerDefaults.shape, ...kept.shape },
  content: { ...contents[kept.content?.kind]?.fresh, ...kept.content },
  key: kept.key && { ...colourKeyDefaults, ...kept.key },
});

/** Layers with those hidden that others, which are to be seen alone, leave out. Hidden ones may still hold others out. */
export function soloed<T extends { hidden: boolean; solo?: boolean }>(layers: readonly T[]): T[] {
  const alone = layers.some(({ solo }) => solo);
  return layers.map((layer) => ({ ...layer, hidden: layer.hidden || (alone && !layer.solo) }));
}
