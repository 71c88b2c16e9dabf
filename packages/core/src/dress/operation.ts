import type { Mat3, Point } from '../geometry/mat3.js';
import type { BlendMode } from './blend.js';
import type { Colour } from './colour.js';

/** Whether what has a colour, or a shape, is seen, or all else. */
export const keeps = ['inside', 'outside'] as const;
export type Keep = (typeof keeps)[number];

export const coverWays = ['averaged', 'plain', 'mosaic', 'blur'] as const;

/** Hides what is there. Averaged: one colour, the mean of what it covers. Mosaic and blur disguise. */
export interface CoverContent {
  kind: 'cover';
  how: (typeof coverWays)[number];
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
  keep: Keep;
}

/** A colour key as it begins. */
export const colourKeyDefaults = {
  colour: [0, 1, 0],
  range: 0.1,
  softness: 0.05,
  choke: 0,
  spill: 0,
  keep: 'outside',
} as const satisfies ColourKey;

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

/** What an operation shows or does. */
export type OperationContent =
  | CoverContent
  | ColourContent
  | {
      kind: 'picture';
      asset: string;
      /** From the unit square. */
      frameFromPicture: Mat3;
      /** It takes on the light and the grain of what is about it. */
      follow?: boolean;
    }
  /** A picture at its own size, from the clip's pixels about its middle. */
  | { kind: 'text'; asset: string; frameFromMiddle: Mat3 };

/** One thing that is done to the picture of a frame, clip pixels; they are done in order. */
export interface DressOperation {
  mask: MaskRecipe;
  content: OperationContent;
  blend: BlendMode;
  opacity: number;
  /** Another layer's shape, that it is kept inside or outside of. */
  matte: { mask: MaskRecipe; keep: Keep } | null;
  key: ColourKey | null;
  match: Match;
  /** Where else it is while the shutter is open, from where it is; itself alone where nothing blurs it. */
  exposures: readonly Mat3[];
  /** Has grain differ from frame to frame. */
  frame: number;
  /** Which layer it is of. */
  layerId: string;
}
