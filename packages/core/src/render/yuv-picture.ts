import { apply, invert, multiply, type Mat3, type Point } from '../geometry/mat3.js';
import { quadFromSquare } from '../geometry/quad.js';
import type { Bounds, Interpolation, Kernels, PlaneAt } from '../kernels/kernels.js';
import { readPlace, type RowMotion } from '../solve/row-motion.js';

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

/** Where a frame's rows are put, each by its own. */
export interface RowPlacement {
  rows: RowMotion;
  frame: number;
}

/**
 * Resamples a whole picture within the kernels' memory, plane by plane, no detour through RGB: source at
 * byte `from`, result at byte `to`, both of `format`. Bare edges become black. Of a frame whose rows were read one after
 * another each band of rows goes by a matrix of its own.
 */
export function warpPicture(
  kernels: Kernels,
  format: YuvFormat,
  from: number,
  to: number,
  outputFromFrame: Mat3,
  interpolation: Interpolation,
  byRows: RowPlacement | null = null,
): void {
  const frame: Bounds = { left: 0, top: 0, right: format.width, bottom: format.height };
  const chroma = lumaFromChroma(format);
  const toChroma = invert(chroma);
  const depth = bytesOf(format.bits);
  const chromaFrame: Bounds = {
    left: (0 - chroma[2]) / chroma[0],
    top: 0,
    right: (format.width - chroma[2]) / chroma[0],
    bottom: format.height / chroma[4],
  };
  for (const { first, last, frameFromOutput } of bandsOf(format, invert(outputFromFrame), byRows)) {
    const chromaFromOutput = multiply(toChroma, multiply(frameFromOutput, chroma));
    planeLayout(format).forEach(({ offset, width, height }, i) => {
      const size = { width, height, stride: width * depth };
      const source: PlaneAt = { at: from + offset * depth, ...size };
      const target: PlaneAt = { at: to + offset * depth, ...size };
      const black = (i > 0 ? 128 : format.range === 'limited' ? 16 : 0) << (format.bits - 8);
      const matrix = i > 0 ? chromaFromOutput : frameFromOutput;
      const bounds = i > 0 ? chromaFrame : frame;
      const down = i > 0 ? chroma[4] : 1;
      const [rowFrom, rowTo] = [first / down, Math.min(Math.ceil(last / down), height)];
      if (format.bits === 8)
        kernels.warpPlane(source, target, matrix, bounds, interpolation, black, rowFrom, rowTo);
      else
        kernels.warpDeepPlane(
          source,
          target,
          matrix,
          bounds,
          interpolation,
          black,
          (1 << format.bits) - 1,
          rowFrom,
          rowTo,
        );
    });
  }
}

/** Rows of a band: even, so that bands of chroma begin with a row. */
const bandHeight = 32;
/** An affine matrix that is off by less than this at a band's corners, in pixels, does for it. */
const closeEnough = 0.02;

/** Bands of output rows, `first` up to `last`, and the matrix of each. */
function* bandsOf(
  { width, height }: Pick<YuvFormat, 'width' | 'height'>,
  frameFromOutput: Mat3,
  byRows: RowPlacement | null,
): Generator<{ first: number; last: number; frameFromOutput: Mat3 }> {
  if (!byRows) {
    yield { first: 0, last: height, frameFromOutput };
    return;
  }
  const sideAt = (y: number): Point[] =>
    [0, width].map((x) => readPlace(byRows.rows, byRows.frame, apply(frameFromOutput, x, y)));
  let upper = sideAt(0);
  for (let first = 0; first < height; first += bandHeight) {
    const last = Math.min(first + bandHeight, height);
    const lower = sideAt(last);
    yield {
      first,
      last,
      frameFromOutput: quadMatrix({ left: 0, top: first, right: width, bottom: last }, [...upper, ...lower]),
    };
    upper = lower;
  }
}

/** The matrix that takes a rectangle's corners to four points, upper ones first: an affine one where that does. */
function quadMatrix({ left, top, right, bottom }: Bounds, [a, b, c, d]: Point[]): Mat3 {
  const twist = Math.hypot(d.x - b.x - c.x + a.x, d.y - b.y - c.y + a.y);
  if (twist / 4 > closeEnough) {
    const quad = quadFromSquare([a, b, d, c]);
    const square: Mat3 = [
      1 / (right - left),
      0,
      -left / (right - left),
      0,
      1 / (bottom - top),
      -top / (bottom - top),
      0,
      0,
      1,
    ];
    if (quad) return multiply(quad, square);
  }
  // The mean of both pairs of sides; a quarter of the twist is left at each corner.
  const [w, h] = [2 * (right - left), 2 * (bottom - top)];
  const along = { x: (b.x - a.x + d.x - c.x) / w, y: (b.y - a.y + d.y - c.y) / w };
  const down = { x: (c.x - a.x + d.x - b.x) / h, y: (c.y - a.y + d.y - b.y) / h };
  const middle = { x: (a.x + b.x + c.x + d.x) / 4, y: (a.y + b.y + c.y + d.y) / 4 };
  const [mx, my] = [(left + right) / 2, (top + bottom) / 2];
  return [
    along.x,
    down.x,
    middle.x - along.x * mx - down.x * my,
    along.y,
    down.y,
    middle.y - along.y * mx - down.y * my,
    0,
    0,
    1,
  ];
}
