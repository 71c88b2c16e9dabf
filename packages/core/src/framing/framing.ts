import { apply, invert, matrixAt, multiply, type Mat3, type Point } from '../geometry/mat3.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import { middlePlace, readPlace, rowKnots, type RowMotion } from '../solve/row-motion.js';

/** Zoom about the picture's centre, then a shift in output pixels. At zoom 1 the clip just covers the output. */
export interface Framing {
  zoom: number;
  offsetX: number;
  offsetY: number;
}

export interface PictureSize {
  width: number;
  height: number;
}

/**
 * A clip's size, and what is seen of it: the output's own size, and the window of the steadied picture, clip pixels about its
 * middle, that fills it at zoom 1. Without them the output is as the clip.
 */
export interface View extends PictureSize {
  output?: PictureSize;
  window?: PictureSize;
}

/** A view of a clip in an output of its own size, with square pixels: at zoom 1 the clip just covers it. */
export function viewOf(clip: PictureSize & { pixelAspect: string }, output?: PictureSize | null): View {
  const { width, height } = clip;
  if (!output || (output.width === width && output.height === height)) return { width, height };
  const aspect = parsePixelAspect(clip.pixelAspect);
  const scale = Math.max(output.width / (width * aspect), output.height / height);
  return {
    width,
    height,
    output: { width: output.width, height: output.height },
    window: { width: output.width / (scale * aspect), height: output.height / scale },
  };
}

export const outputOf = ({ width, height, output = { width, height } }: View): PictureSize => output;
export const windowOf = ({ width, height, window = { width, height } }: View): PictureSize => window;

export const noFraming: Framing = { zoom: 1, offsetX: 0, offsetY: 0 };

export const edges = ['left', 'top', 'right', 'bottom'] as const;
export type Edge = (typeof edges)[number];

/** The matrix that takes the steadied picture to output pixels. */
export function framingMatrix({ zoom, offsetX, offsetY }: Framing, view: View): Mat3 {
  const [output, window] = [outputOf(view), windowOf(view)];
  const [sx, sy] = [(zoom * output.width) / window.width, (zoom * output.height) / window.height];
  return [
    sx,
    0,
    (output.width - sx * view.width) / 2 + offsetX,
    0,
    sy,
    (output.height - sy * view.height) / 2 + offsetY,
    0,
    0,
    1,
  ];
}

/** Correction and framing together, nine numbers a frame: frame k → output pixel. */
export function place(corrections: Float64Array, framing: Framing, view: View): Float64Array {
  const frame = framingMatrix(framing, view);
  const placements = new Float64Array(corrections.length);
  for (let k = 0; k * 9 < corrections.length; k++) {
    placements.set(multiply(frame, matrixAt(corrections, k)), 9 * k);
  }
  return placements;
}

/** The same with a zoom of its own for each frame, and a point of the steadied picture, clip pixels, in the middle of the output. */
export function placeVarying(
  corrections: Float64Array,
  { zooms, middle }: { zooms: Float64Array; middle: Point },
  view: View,
): Float64Array {
  const [output, window] = [outputOf(view), windowOf(view)];
  const placements = new Float64Array(corrections.length);
  zooms.forEach((zoom, k) => {
    const [sx, sy] = [(zoom * output.width) / window.width, (zoom * output.height) / window.height];
    const framed = {
      zoom,
      offsetX: sx * (view.width / 2 - middle.x),
      offsetY: sy * (view.height / 2 - middle.y),
    };
    placements.set(multiply(framingMatrix(framed, view), matrixAt(corrections, k)), 9 * k);
  });
  return placements;
}

/**
 * How far the output rectangle reaches past each edge of the source frame, in source pixels, in the order
 * of `edges`; 0 where it does not. An output corner that lies outside shows a bare edge; of a frame whose rows were read one
 * after another, any place on its left and right side.
 */
export function overhang(
  outputFromFrame: Mat3,
  size: View,
  rows: RowMotion | null = null,
  frame = 0,
): [number, number, number, number] {
  const frameFromOutput = invert(outputFromFrame);
  const over: [number, number, number, number] = [0, 0, 0, 0];
  // Sides that are bent may show a bare edge between the corners.
  const along = rows ? rowKnots - 1 : 1;
  const output = outputOf(size);
  for (const x of [0, output.width]) {
    for (let i = 0; i <= along; i++) {
      const y = (i / along) * output.height;
      const depth = frameFromOutput[6] * x + frameFromOutput[7] * y + frameFromOutput[8];
      // A corner that lies behind the viewer shows nothing of the frame.
      if (!(depth > 0)) return [Infinity, Infinity, Infinity, Infinity];
      const p = readPlace(rows, frame, apply(frameFromOutput, x, y));
      over[0] = Math.max(over[0], -p.x);
      over[1] = Math.max(over[1], -p.y);
      over[2] = Math.max(over[2], p.x - size.width);
      over[3] = Math.max(over[3], p.y - size.height);
    }
  }
  return over;
}

/** What puts frames into the output: a table of nine numbers a frame, and what it needs done to their rows before. */
export interface Placing {
  placements: Float64Array;
  rows: RowMotion | null;
}

/** Where a point of a frame, as it was read, is put. */
export function outputPlace({ placements, rows }: Placing, frame: number, at: Point): Point {
  const { x, y } = middlePlace(rows, frame, at);
  return apply(matrixAt(placements, frame), x, y);
}

/** Rounding in the matrices reaches about this far, in pixels; less than it shows nothing. */
export const bareTolerance = 1e-6;

export interface BareEdge {
  frame: number;
  edge: Edge;
  /** How far the output reaches past the source frame, in source pixels. */
  pixels: number;
}

/** For each frame of the range its worst bare edge, if it has one, worst first. */
export function bareEdges(
  placements: Float64Array,
  first: number,
  last: number,
  size: View,
  rows: RowMotion | null = null,
): BareEdge[] {
  const found: BareEdge[] = [];
  for (let k = first; k <= last; k++) {
    const over = overhang(matrixAt(placements, k), size, rows, k);
    const pixels = Math.max(...over);
    if (pixels > bareTolerance) found.push({ frame: k, edge: edges[over.indexOf(pixels)], pixels });
  }
  return found.sort((a, b) => b.pixels - a.pixels);
}
