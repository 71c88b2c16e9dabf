import { samplePatch } from '../image/patch.js';
import { cropPlane, makePlane, type Plane } from '../image/plane.js';

/** A turn and growth without a shift: u ↦ (a·u.x − b·u.y, b·u.x + a·u.y). */
export interface Turn {
  a: number;
  b: number;
}

export const noTurn: Turn = { a: 1, b: 0 };

/**
 * What a track looks for: the pixels of its box at a hand-placed key, with their gradients. The box is cut
 * at whole pixels so that nothing is interpolated; `offset` leads from its centre to the wanted point.
 */
export interface Template {
  /** Odd, so that the centre falls on a pixel's centre. */
  width: number;
  height: number;
  /** Grey levels and their derivatives per pixel, row by row. */
  level: Float32Array;
  gradientX: Float32Array;
  gradientY: Float32Array;
  offset: { x: number; y: number };
  /** The box with a margin, from which turned copies are drawn. */
  surround: Plane;
  margin: number;
}

const odd = (n: number): number => Math.max(3, Math.round(n) | 1);

/** Cuts a template of about `width`×`height` around (x, y), corner-origin pixels. */
export function cutTemplate(plane: Plane, x: number, y: number, width: number, height: number): Template {
  const w = odd(width);
  const h = odd(height);
  const margin = Math.ceil(Math.max(w, h) / 4) + 2;
  const left = Math.floor(x) - (w >> 1);
  const top = Math.floor(y) - (h >> 1);
  const surround = cropPlane(plane, left - margin, top - margin, w + 2 * margin, h + 2 * margin);
  const level = new Float32Array(w * h);
  const gradientX = new Float32Array(w * h);
  const gradientY = new Float32Array(w * h);
  const { data, stride } = surround;
  for (let j = 0, out = 0; j < h; j++) {
    for (let i = 0, at = (j + margin) * stride + margin; i < w; i++, at++, out++) {
      level[out] = data[at];
      gradientX[out] = (data[at + 1] - data[at - 1]) / 2;
      gradientY[out] = (data[at + stride] - data[at - stride]) / 2;
    }
  }
  return {
    width: w,
    height: h,
    level,
    gradientX,
    gradientY,
    offset: { x: x - (Math.floor(x) + 0.5), y: y - (Math.floor(y) + 0.5) },
    surround,
    margin,
  };
}

/**
 * The template's box as it looks after a turn, ready for the whole-pixel search. Where a wide turn reaches
 * beyond what was kept around the box it is filled with middle grey.
 */
export function turnedPicture(template: Template, turn: Turn): Plane {
  const { width, height, surround, margin } = template;
  const norm = turn.a * turn.a + turn.b * turn.b;
  const pose = { x: margin + width / 2, y: margin + height / 2, a: turn.a / norm, b: -turn.b / norm };
  const seen = new Float32Array(width * height);
  samplePatch(surround, pose, width, height, 'linear', seen);
  const picture = makePlane(width, height);
  for (let i = 0; i < seen.length; i++) picture.data[i] = seen[i] >= 0 ? seen[i] + 0.5 : 128;
  return picture;
}
