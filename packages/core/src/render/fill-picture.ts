import { flattenSpline, isInAny } from '../geometry/closed-spline.js';
import { identity, matrixAt, type Point } from '../geometry/mat3.js';
import type { CarriedLayer } from '../dress/film.js';
import { partsAt } from '../dress/operations.js';
import { cutOut, medianOf, relight, type ReadFrame } from './cut-out.js';
import type { LayerPicture } from './picture-sampler.js';
import type { PixelBox } from './warp-picture.js';

/** The frames that a fill is made of: as many as are wanted, evenly over those of its span on which what carries it was seen. */
export function framesToFill({ layer, carriage }: CarriedLayer): number[] {
  const { content, first, last, frame } = layer;
  const wanted = content.kind === 'fill' ? content.frames : 0;
  const seen: number[] = [];
  for (let k = first; k <= last; k++) if (carriage.unseen[k] === 0) seen.push(k);
  if (seen.length === 0) return [frame];
  const count = Math.min(wanted, seen.length);
  return Array.from({ length: count }, (_, i) => seen[Math.floor(((i + 0.5) * seen.length) / count)]);
}

/**
 * What is inside a layer's outlines without what passes there: of each pixel the median over frames, which are carried to where
 * the layer was drawn and brought to that one's light. `read` has a frame of the clip in red, green and blue at its own size.
 */
export async function fillPicture(one: CarriedLayer, box: PixelBox, read: ReadFrame): Promise<LayerPicture> {
  const { layer, carriage } = one;
  const outlines = partsAt(layer.shape, layer.frame).flatMap(({ spline, cut }) =>
    cut ? [] : [flattenSpline(spline)],
  );
  const own = cutOut(await read(layer.frame), box, identity);
  const rim = rimOf(box, outlines);
  const looks: Float32Array[] = [];
  for (const frame of framesToFill(one)) {
    const look = cutOut(await read(frame), box, matrixAt(carriage.frameFromLayer, frame));
    relight(look, own, rim);
    looks.push(look);
  }
  const middle = medianOf(looks, own);
  const [width, height] = [box.right - box.left, box.bottom - box.top];
  const rgba = new Uint8Array(4 * width * height).fill(255);
  middle.forEach(
    (value, i) => (rgba[4 * Math.floor(i / 3) + (i % 3)] = Math.min(Math.max(Math.round(value), 0), 255)),
  );
  return { width, height, rgba };
}

/** Which pixels of the box lie beyond the outlines: there all frames show the same but for the light. */
function rimOf({ left, top, right, bottom }: PixelBox, outlines: readonly (readonly Point[])[]): number[] {
  const rim: number[] = [];
  for (let y = top; y < bottom; y += 2)
    for (let x = left; x < right; x += 2)
      if (!isInAny(outlines, { x: x + 0.5, y: y + 0.5 })) rim.push((y - top) * (right - left) + x - left);
  return rim;
}
