import type { Mat3 } from '../geometry/mat3.js';

/** How many luma pixels share a chroma sample, across and down. */
export type Subsampling = '420' | '422' | '444';

/** Where a chroma sample sits among its luma pixels: level with the left one, or in the middle. */
export type ChromaSiting = 'left' | 'center';

export type Bits = 8 | 10 | 12;

export interface YuvFormat {
  width: number;
  height: number;
  subsampling: Subsampling;
  siting: ChromaSiting;
  /** `limited`: black is 16; `full`: black is 0. */
  range: 'limited' | 'full';
  /** A level of more than eight bits takes two bytes, the lower first. */
  bits: Bits;
  /** Whether a fourth plane, as large as the first, says how much of each pixel is seen. */
  alpha?: boolean;
}

export interface PlaneLayout {
  /** From the picture's start, in levels. */
  offset: number;
  width: number;
  height: number;
}

/** Width and height divisors of the chroma planes. */
const divisors = { '420': [2, 2], '422': [2, 1], '444': [1, 1] } as const;

/** Bytes of one level. */
export const bytesOf = (bits: Bits): number => (bits === 8 ? 1 : 2);

/** The planes as ffmpeg's rawvideo lays them out: Y, U, V, and with alpha a fourth, without padding. */
export function planeLayout(
  format: Pick<YuvFormat, 'width' | 'height' | 'subsampling' | 'alpha'>,
): PlaneLayout[] {
  const { width, height } = format;
  const [dx, dy] = divisors[format.subsampling];
  const cw = Math.ceil(width / dx);
  const ch = Math.ceil(height / dy);
  return [
    { offset: 0, width, height },
    { offset: width * height, width: cw, height: ch },
    { offset: width * height + cw * ch, width: cw, height: ch },
    ...(format.alpha ? [{ offset: width * height + 2 * cw * ch, width, height }] : []),
  ];
}

export function pictureBytes(
  format: Pick<YuvFormat, 'width' | 'height' | 'subsampling' | 'bits' | 'alpha'>,
): number {
  const last = planeLayout(format)[format.alpha ? 3 : 2];
  return (last.offset + last.width * last.height) * bytesOf(format.bits);
}

/**
 * Luma position from chroma-plane position, corner origin both; `shrunk` is for planes of a picture that many times as large,
 * whose means over squares are to sit as the format has it.
 */
export function lumaFromChroma(format: YuvFormat, shrunk = 1): Mat3 {
  const [dx, dy] = divisors[format.subsampling];
  // A sample level with the left pixel has its centre half a luma pixel left of the pair's middle.
  const shift = dx === 2 && format.siting === 'left' ? -shrunk / 2 : 0;
  return [dx, 0, shift, 0, dy, 0, 0, 0, 1];
}
