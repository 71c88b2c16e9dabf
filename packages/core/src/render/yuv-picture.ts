import { invert, multiply, type Mat3 } from '../geometry/mat3.js';
import type { Bounds, Interpolation, Kernels, PlaneAt } from '../kernels/kernels.js';

/** How many luma pixels share a chroma sample, across and down. */
export type Subsampling = '420' | '422' | '444';

/** Where a chroma sample sits among its luma pixels: level with the left one, or in the middle. */
export type ChromaSiting = 'left' | 'center';

export interface YuvFormat {
  width: number;
  height: number;
  subsampling: Subsampling;
  siting: ChromaSiting;
  /** `limited`: black is 16; `full`: black is 0. */
  range: 'limited' | 'full';
  /** A level of ten bits takes two bytes, the lower first. */
  bits: 8 | 10;
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
const bytesOf = (bits: 8 | 10): number => (bits === 8 ? 1 : 2);

/** The three planes as ffmpeg's rawvideo lays them out: Y, U, V, without padding. */
export function planeLayout(format: Pick<YuvFormat, 'width' | 'height' | 'subsampling'>): PlaneLayout[] {
  const { width, height } = format;
  const [dx, dy] = divisors[format.subsampling];
  const cw = Math.ceil(width / dx);
  const ch = Math.ceil(height / dy);
  return [
    { offset: 0, width, height },
    { offset: width * height, width: cw, height: ch },
    { offset: width * height + cw * ch, width: cw, height: ch },
  ];
}

export function pictureBytes(format: Pick<YuvFormat, 'width' | 'height' | 'subsampling' | 'bits'>): number {
  const last = planeLayout(format)[2];
  return (last.offset + last.width * last.height) * bytesOf(format.bits);
}

/** Luma position from chroma-plane position, corner origin both. */
export function lumaFromChroma(format: YuvFormat): Mat3 {
  const [dx, dy] = divisors[format.subsampling];
  // A sample level with the left pixel has its centre half a luma pixel left of the pair's middle.
  const shift = dx === 2 && format.siting === 'left' ? -0.5 : 0;
  return [dx, 0, shift, 0, dy, 0, 0, 0, 1];
}

/**
 * Resamples a whole picture within the kernels' memory, plane by plane, no detour through RGB: source at
 * byte `from`, result at byte `to`, both of `format`. Bare edges become black.
 */
export function warpPicture(
  kernels: Kernels,
  format: YuvFormat,
  from: number,
  to: number,
  outputFromFrame: Mat3,
  interpolation: Interpolation,
): void {
  const frameFromOutput = invert(outputFromFrame);
  const frame: Bounds = { left: 0, top: 0, right: format.width, bottom: format.height };
  const chroma = lumaFromChroma(format);
  const depth = bytesOf(format.bits);
  const chromaFromOutput = multiply(invert(chroma), multiply(frameFromOutput, chroma));
  const chromaFrame: Bounds = {
    left: (0 - chroma[2]) / chroma[0],
    top: 0,
    right: (format.width - chroma[2]) / chroma[0],
    bottom: format.height / chroma[4],
  };
  planeLayout(format).forEach(({ offset, width, height }, i) => {
    const size = { width, height, stride: width * depth };
    const source: PlaneAt = { at: from + offset * depth, ...size };
    const target: PlaneAt = { at: to + offset * depth, ...size };
    const black = (i > 0 ? 128 : format.range === 'limited' ? 16 : 0) << (format.bits - 8);
    const matrix = i > 0 ? chromaFromOutput : frameFromOutput;
    const bounds = i > 0 ? chromaFrame : frame;
    if (format.bits === 8) kernels.warpPlane(source, target, matrix, bounds, interpolation, black);
    else kernels.warpDeepPlane(source, target, matrix, bounds, interpolation, black, (1 << format.bits) - 1);
  });
}
