import type { CarriedLayer } from '../dress/film.js';
import { apply, invert, matrixAt } from '../geometry/mat3.js';
import { boxCorners } from '../geometry/quad.js';
import { cutOut, type ReadFrame } from './cut-out.js';

/** How much what lies under a patch loses on its way to the held picture and back. */
export interface RoundTrip {
  /** Root of the mean square over red, green and blue, levels of 255. */
  rms: number;
  /** The same as a ratio to the largest level, dB; infinite where nothing is lost. */
  psnr: number;
}

/**
 * Takes the picture of a frame to where a patch was drawn and back, and measures what that loses in the patch's box; null where
 * the patch has no box, or it lies outside the picture.
 */
export async function roundTrip(
  { carriage, box }: CarriedLayer,
  frame: number,
  read: ReadFrame,
): Promise<RoundTrip | null> {
  if (!box) return null;
  const picture = await read(frame);
  const matrix = matrixAt(carriage.frameFromLayer, frame);
  const held = cutOut(picture, box, matrix);
  const [w, h] = [box.right - box.left, box.bottom - box.top];
  const corners = boxCorners(box).map(({ x, y }) => apply(matrix, x, y));
  const back = invert(matrix);
  const within = (value: number, most: number): number => Math.min(Math.max(value, 0), most);
  const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
  const [left, right] = [Math.min(...xs), Math.max(...xs)].map((v) => within(Math.round(v), picture.width));
  const [top, bottom] = [Math.min(...ys), Math.max(...ys)].map((v) => within(Math.round(v), picture.height));
  let [sum, count] = [0, 0];
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x++) {
      const p = apply(back, x + 0.5, y + 0.5);
      const [u, v] = [p.x - box.left - 0.5, p.y - box.top - 0.5];
      const [i, j] = [Math.floor(u), Math.floor(v)];
      if (!(i >= 0 && j >= 0 && i < w - 1 && j < h - 1)) continue;
      const [s, t] = [u - i, v - j];
      for (let c = 0; c < 3; c++) {
        const k = 3 * (j * w + i) + c;
        const upper = held[k] + s * (held[k + 3] - held[k]);
        const below = k + 3 * w;
        const level = upper + t * (held[below] + s * (held[below + 3] - held[below]) - upper);
        if (level !== level) continue;
        sum += (level - picture.rgba[4 * (y * picture.width + x) + c]) ** 2;
        count++;
      }
    }
  if (count === 0) return null;
  const rms = Math.sqrt(sum / count);
  return { rms, psnr: 20 * Math.log10(255 / rms) };
}
