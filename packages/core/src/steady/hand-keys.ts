import { keysAbout } from '../geometry/keys.js';
import { identity, type Mat3 } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import type { PictureSize } from '../framing/framing.js';
import { eased, type Easing } from './easing.js';

/** Where the steadied picture is put by hand on a frame, and how one goes on from there. */
export interface HandKey {
  frame: number;
  /** Output pixels, to the right and down. */
  x: number;
  y: number;
  /** Radians, clockwise, about the output's middle. */
  rotation: number;
  /** About the output's middle; 1 leaves it as it is. */
  zoom: number;
  easing: Easing;
}

export type HandPlace = Omit<HandKey, 'frame' | 'easing'>;

const untouched: HandPlace = { x: 0, y: 0, rotation: 0, zoom: 1 };

/** Where the picture is put on a frame: between keys as the earlier one says, before the first and after the last as that. */
export function handPlaceAt(keys: readonly HandKey[], frame: number): HandPlace {
  if (keys.length === 0) return untouched;
  const about = keysAbout(keys, frame);
  const { before: a, after: b } = about;
  if (a === b) return a;
  const share = eased(about.share, a.easing);
  const between = (name: 'x' | 'y' | 'rotation'): number => a[name] + share * (b[name] - a[name]);
  return {
    x: between('x'),
    y: between('y'),
    rotation: between('rotation'),
    zoom: a.zoom * (b.zoom / a.zoom) ** share,
  };
}

/** The matrix that puts the steadied picture there. */
export function handMatrix(
  { x, y, rotation, zoom }: HandPlace,
  { width, height }: PictureSize,
  pixelAspect: number,
): Mat3 {
  if (x === 0 && y === 0 && rotation === 0 && zoom === 1) return identity;
  // Turning keeps shapes only where pixels are square.
  const square = similarityMatrix(
    { x: x * pixelAspect, y, rotation, scale: zoom },
    { x: (width * pixelAspect) / 2, y: height / 2 },
  );
  const [a, b, c, d, e, f] = square;
  return [a, b / pixelAspect, c / pixelAspect, d * pixelAspect, e, f, 0, 0, 1];
}
