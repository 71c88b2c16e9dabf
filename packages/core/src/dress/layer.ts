import type { ClosedSpline } from '../geometry/closed-spline.js';
import type { MotionModel } from '../solve/fit-model.js';
import type { Easing } from '../steady/easing.js';
import type { BlendMode } from './blend.js';
import type { Colour } from './colour.js';
import type { RepairContent } from './stroke.js';

export type { Colour, RepairContent };

/** What a layer rides on, and what of that it takes. */
export interface Carrier {
  /** The frame itself; points that are followed; what is held of the scene. */
  kind: 'still' | 'tracks' | 'scene';
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

/** Hides what is there. Averaged: one colour, the mean of what it covers. Mosaic and blur disguise. */
export interface CoverContent {
  kind: 'cover';
  how: 'averaged' | 'plain' | 'mosaic' | 'blur';
  colour: Colour;
  /** Of mosaic and blur: the side of a square, or the radius, pixels. */
  strength: number;
}

/** Changes colours. */
export interface ColourContent {
  kind: 'colour';
  /** Radians, about the neutral axis. */
  hue: number;
  /** Factors; 1 leaves them. */
  saturation: number;
  contrast: number;
  /** Added to the lightness, −1 to 1. */
  brightness: number;
  /** Towards white, or below 0 towards black, −1 to 1. */
  lightness: number;
  /** Brightness that comes of a brightness, pairs one after another, both 0 to 1 and the first rising; empty for a straight line. */
  curve: readonly number[];
  /** What it is tinted towards, and how far, 0 to 1. */
  tint: Colour;
  tintAmount: number;
}

/** A picture of the clip's files, in a quad of its own. */
export interface PictureContent {
  kind: 'picture';
  /** The asset's id; of a recipe its path. */
  asset: string;
  /** Its corners, upper left first and on clockwise, pixels on the frame that it was drawn on: eight numbers. */
  quad: readonly number[];
}

/** A clip of the project, at its own rate, in a quad of its own; or a frame of one. */
export interface ClipContent {
  kind: 'clip';
  /** The clip's id; of a recipe its path; empty for the clip itself. */
  clip: string;
  /** The frame of it that is shown on the first of the layer's. */
  from: number;
  /** From there on: over and over, held at its end, or that frame alone. */
  play: 'loop' | 'hold' | 'still';
  quad: readonly number[];
}

/** Words. */
export interface TextContent {
  kind: 'text';
  /** Lines are parted by line breaks. */
  text: string;
  /** An asset's id, of a recipe the path of a font's file; empty for the font that ships. */
  font: string;
  /** 100 to 900, as far as the font goes. */
  weight: number;
  /** Of the letters, pixels. */
  size: number;
  colour: Colour;
  /** Pixels about each letter; 0 for none. */
  outline: number;
  outlineColour: Colour;
  align: 'left' | 'center' | 'right';
  /** From line to line, in sizes. */
  lineSpacing: number;
  /** Where its middle is, pixels on the frame that it was drawn on. */
  x: number;
  y: number;
  /** Radians, clockwise, about that. */
  turn: number;
}

/** What is there without what passes before it, taken from frames of the clip on which it is seen. */
export interface FillContent {
  kind: 'fill';
  /** So many frames are looked at, spread over the layer's own. */
  frames: number;
  /** Whether it takes on each frame's light, and its grain. */
  follow: boolean;
}

export type LayerContent =
  CoverContent | ColourContent | PictureContent | ClipContent | TextContent | FillContent | RepairContent;
export const contentKinds = ['cover', 'colour', 'picture', 'clip', 'text', 'fill', 'repair'] as const;

/** How words are drawn, by which their picture goes; where they are is no part of it. */
export const textName = ({ x: _, y: __, turn: ___, ...look }: TextContent): string => JSON.stringify(look);
/** Pixels of a picture of words to a pixel of the clip. */
export const textScale = 2;

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
export type Matte = { keep: 'inside' | 'outside' } & (
  { layerId: string } | { regionId: string; feather: number }
);

/** Only where the picture below has a colour, or only where it has not. */
export interface ColourKey {
  colour: Colour;
  /** How far a colour may be off, as a share of all of chroma; and over how much it fades from there. */
  range: number;
  softness: number;
  /** By how many pixels what has the colour is drawn in; spread where negative. */
  choke: number;
  /** How much of the colour's tinge is taken off what stands before it, about its edges, 0 to 1. */
  spill: number;
  keep: 'inside' | 'outside';
}

/** What has a picture, a clip or words sit in what is about them. */
export interface Match {
  /** The radius that it is softened by (standard deviation), pixels of the frame. */
  soften: number;
  /** Standard deviation of the grain on it, of all of luma. */
  grain: number;
  /** What black and white of it become, of all of luma. */
  black: number;
  white: number;
}

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

/** Layers with those hidden that others, which are to be seen alone, leave out. Hidden ones may still hold others out. */
export function soloed<T extends { hidden: boolean; solo?: boolean }>(layers: readonly T[]): T[] {
  const alone = layers.some(({ solo }) => solo);
  return layers.map((layer) => ({ ...layer, hidden: layer.hidden || (alone && !layer.solo) }));
}
