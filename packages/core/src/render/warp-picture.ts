import { apply, invert, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import { quadFromSquare } from '../geometry/quad.js';
import { kept, type Bounds, type Interpolation, type Kernels, type PlaneAt } from '../kernels/kernels.js';
import { middlePlace, readPlace, type RowMotion } from '../solve/row-motion.js';
import { bytesOf, lumaFromChroma, planeLayout, type YuvFormat } from './yuv-picture.js';

/** A picture within the kernels' memory. */
export interface PictureAt {
  at: number;
  format: YuvFormat;
}

/** Where a frame's rows are put, each by its own; `target` where it is the target that was read row by row. */
export interface RowPlacement {
  rows: RowMotion;
  frame: number;
  of?: 'source' | 'target';
}

/** Whole pixels from the first to before the last; even, so that chroma pixels are whole as well. */
export interface PixelBox {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

export interface WarpOptions {
  interpolation: Interpolation;
  /** What pixels become that the frame does not reach: black; left as they are; or its outermost pixels go on. */
  beyond: 'black' | 'kept' | 'stretched';
  /** How many times too large the target is: its squares will be taken together. */
  shrunk?: number;
  /** What of the target is made; all of it when left out. */
  box?: PixelBox;
  byRows?: RowPlacement | null;
  /** Light, as a factor of the levels above black, that is given to what is drawn. */
  gain?: number;
  /** A picture of the target's format that it fades into at the source's edges, over so many source pixels. */
  seam?: { below: PictureAt; feather: number };
}

/**
 * Resamples a picture within the kernels' memory, plane by plane, no detour through RGB; source and target are of one
 * subsampling and depth. A fourth plane of the target tells what the frame reaches, or what of it is seen where the source has one. Of a frame whose rows were read one after
 * another each band of rows goes by a matrix of its own.
 */
export function warpPicture(
  kernels: Kernels,
  source: PictureAt,
  target: PictureAt,
  outputFromFrame: Mat3,
  { interpolation, beyond, shrunk = 1, box, byRows = null, gain = 1, seam }: WarpOptions,
): void {
  const { width, height, bits, range } = source.format;
  const frame: Bounds = { left: 0, top: 0, right: width, bottom: height };
  const ownChroma = lumaFromChroma(source.format);
  const fromLuma = invert(ownChroma);
  const chroma = lumaFromChroma(target.format, shrunk);
  const chromaFrame: Bounds = {
    left: -ownChroma[2] / ownChroma[0],
    top: 0,
    right: (width - ownChroma[2]) / ownChroma[0],
    bottom: height / ownChroma[4],
  };
  const all = { left: 0, top: 0, right: target.format.width, bottom: target.format.height };
  const depth = bytesOf(bits);
  const most = (1 << bits) - 1;
  const sources = planeLayout(source.format);
  for (const band of bandsOf(box ?? all, invert(outputFromFrame), byRows)) {
    const fromOutput = band.frameFromOutput;
    const chromaFromOutput = multiply(fromLuma, multiply(fromOutput, chroma));
    planeLayout(target.format).forEach((plane, i) => {
      const isChroma = i === 1 || i === 2;
      const [across, down] = isChroma ? [chroma[0], chroma[4]] : [1, 1];
      const x = band.left / across;
      const y = band.top / down;
      const part: PlaneAt = {
        at: target.at + (plane.offset + y * plane.width + x) * depth,
        width: Math.min(Math.ceil(band.right / across), plane.width) - x,
        height: Math.min(Math.ceil(band.bottom / down), plane.height) - y,
        stride: plane.width * depth,
      };
      const matrix = multiply(isChroma ? chromaFromOutput : fromOutput, translation(x, y));
      const bounds = beyond === 'stretched' ? everywhere : isChroma ? chromaFrame : frame;
      if (i === 3 && !source.format.alpha) {
        if (beyond !== 'kept') kernels.coverPlane(part, matrix, frame, most, depth > 1);
        return;
      }
      const own = sources[i];
      const from: PlaneAt = {
        at: source.at + own.offset * depth,
        width: own.width,
        height: own.height,
        stride: own.width * depth,
      };
      const fill = beyond === 'kept' ? kept : i === 3 ? 0 : blackOf(i, bits, range);
      if (depth === 1) kernels.warpPlane(from, part, matrix, bounds, interpolation, fill);
      else kernels.warpDeepPlane(from, part, matrix, bounds, interpolation, fill, most);
      if (gain !== 1 && i === 0)
        kernels.scalePlane(part, matrix, frame, gain, blackOf(0, bits, range), most, depth > 1);
      if (!seam) return;
      const below = { ...part, at: part.at - target.at + seam.below.at };
      kernels.seamPlane(
        below,
        part,
        matrix,
        isChroma ? chromaFrame : frame,
        seam.feather / across,
        depth > 1,
      );
    });
  }
}

const everywhere: Bounds = { left: -1e9, top: -1e9, right: 1e9, bottom: 1e9 };

/** The level of black in a plane. */
export const blackOf = (plane: number, bits: number, range: YuvFormat['range']): number =>
  (plane > 0 ? 128 : range === 'limited' ? 16 : 0) << (bits - 8);

/** Rows of a band: even, so that bands of chroma begin with a row. */
const bandHeight = 32;
/** An affine matrix that is off by less than this at a band's corners, in pixels, does for it. */
const closeEnough = 0.02;

/** Bands of a part of the output, and the matrix of each. */
function* bandsOf(
  box: PixelBox,
  frameFromOutput: Mat3,
  byRows: RowPlacement | null,
): Generator<PixelBox & { frameFromOutput: Mat3 }> {
  if (!byRows) {
    yield { ...box, frameFromOutput };
    return;
  }
  const { left, right } = box;
  const sideAt = (y: number): Point[] =>
    [left, right].map((x) => sourcePlace(byRows, frameFromOutput, { x, y }));
  let upper = sideAt(box.top);
  for (let { top } = box; top < box.bottom; top += bandHeight) {
    const band = { left, top, right, bottom: Math.min(top + bandHeight, box.bottom) };
    const lower = sideAt(band.bottom);
    yield { ...band, frameFromOutput: quadMatrix(band, [...upper, ...lower]) };
    upper = lower;
  }
}

/** Where a point of the target comes from. */
function sourcePlace({ rows, frame, of }: RowPlacement, sourceFromTarget: Mat3, at: Point): Point {
  if (of === 'target') {
    const middle = middlePlace(rows, frame, at);
    return apply(sourceFromTarget, middle.x, middle.y);
  }
  return readPlace(rows, frame, apply(sourceFromTarget, at.x, at.y));
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
