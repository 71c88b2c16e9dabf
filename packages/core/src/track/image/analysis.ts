import type { Plane } from './plane.js';
import type { MappedPlane } from './patch.js';

/** What of the colour is looked at. Saturation is the largest of red, green and blue less the smallest. */
export const channels = ['luma', 'red', 'green', 'blue', 'saturation'] as const;
export type Channel = (typeof channels)[number];

/** Soften: against grain. Local contrast: every neighbourhood brought to the same brightness and contrast. */
export const filters = ['none', 'soften', 'local-contrast'] as const;
export type Filter = (typeof filters)[number];

/** Which lines of interlaced material are looked at; the others are filled in from their neighbours. */
export const fieldChoices = ['both', 'top', 'bottom'] as const;
export type FieldChoice = (typeof fieldChoices)[number];

/** How the picture is seen for matching. Nothing of it touches what is exported. */
export interface Analysis {
  channel: Channel;
  filter: Filter;
  fields: FieldChoice;
}

export const plainAnalysis: Analysis = { channel: 'luma', filter: 'none', fields: 'both' };

export const needsChroma = ({ channel }: Analysis): boolean => channel !== 'luma';

export type ColourMatrix = 'bt601' | 'bt709' | 'bt2020';

/** A decoded frame to track on: its luma, and what else is known. */
export interface TrackPicture extends MappedPlane {
  /** U and V, needed where a colour channel is looked at. */
  chroma?: readonly [Plane, Plane];
  matrix?: ColourMatrix;
  /** A pixel's width over its height; 1 when left out. */
  pixelAspect?: number;
  range?: 'limited' | 'full';
}
