import { flattenSpline, isInAny } from '../geometry/closed-spline.js';
import { apply, identity, matrixAt, type Mat3, type Point } from '../geometry/mat3.js';
import type { CarriedLayer } from '../dress/film.js';
import { fillBox, type FillBox } from '../dress/fill.js';
import { partsAt } from '../dress/operations.js';
import type { LayerPicture } from './picture-sampler.js';

/** The light of a frame is brought to the drawn one's by no more than this, either way. */
const mostRelit = 2;
/** Levels below this tell nothing of it. */
const darkest = 8;

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
export async function fillPicture(
  one: CarriedLayer,
  clip: { width: number; height: number },
  read: (frame: number) => Promise<LayerPicture>,
): Promise<LayerPicture> {
  const { layer, carriage } = one;
  const box = fillBox(layer, clip);
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
  return medianOf(looks, own, box);
}

/** What a frame shows of a box, three numbers a pixel; not numbers outside the picture. */
function cutOut(
  { rgba, width, height }: LayerPicture,
  { left, top, width: w, height: h }: FillBox,
  frameFromLayer: Mat3,
): Float32Array {
  const out = new Float32Array(3 * w * h);
  for (let y = 0, at = 0; y < h; y++)
    for (let x = 0; x < w; x++, at += 3) {
      const p = apply(frameFromLayer, left + x + 0.5, top + y + 0.5);
      const [u, v] = [p.x - 0.5, p.y - 0.5];
      const [i, j] = [Math.floor(u), Math.floor(v)];
      if (!(i >= 0 && j >= 0 && i < width - 1 && j < height - 1)) {
        // The last row and column have no neighbour, but are as good as any where nothing moves.
        const isEdge = Math.abs(u - Math.round(u)) < 1e-6 && Math.abs(v - Math.round(v)) < 1e-6;
        const [a, b] = [Math.round(u), Math.round(v)];
        const inside = isEdge && a >= 0 && b >= 0 && a < width && b < height;
        for (let c = 0; c < 3; c++) out[at + c] = inside ? rgba[4 * (b * width + a) + c] : NaN;
        continue;
      }
      const [s, t] = [u - i, v - j];
      const k = 4 * (j * width + i);
      for (let c = 0; c < 3; c++) {
        const upper = rgba[k + c] + s * (rgba[k + 4 + c] - rgba[k + c]);
        const below = k + 4 * width + c;
        const lower = rgba[below] + s * (rgba[below + 4] - rgba[below]);
        out[at + c] = upper + t * (lower - upper);
      }
    }
  return out;
}

/** Which pixels of the box lie beyond the outlines: there all frames show the same but for the light. */
function rimOf({ left, top, width, height }: FillBox, outlines: readonly (readonly Point[])[]): number[] {
  const rim: number[] = [];
  for (let y = 0; y < height; y += 2)
    for (let x = 0; x < width; x += 2)
      if (!isInAny(outlines, { x: left + x + 0.5, y: top + y + 0.5 })) rim.push(y * width + x);
  return rim;
}

/** Brings a look to the light of another, colour by colour: by the rim's middle ratio, as someone may stand in it on either. */
function relight(look: Float32Array, own: Float32Array, rim: readonly number[]): void {
  for (let c = 0; c < 3; c++) {
    const ratios: number[] = [];
    for (const k of rim) {
      const [a, b] = [own[3 * k + c], look[3 * k + c]];
      if (a > darkest && b > darkest) ratios.push(a / b);
    }
    ratios.sort((a, b) => a - b);
    const middle = ratios.length > 0 ? ratios[ratios.length >> 1] : 1;
    const gain = Math.min(Math.max(middle, 1 / mostRelit), mostRelit);
    for (let k = c; k < look.length; k += 3) look[k] *= gain;
  }
}

function medianOf(
  looks: readonly Float32Array[],
  own: Float32Array,
  { width, height }: FillBox,
): LayerPicture {
  const rgba = new Uint8Array(4 * width * height);
  const values = new Float32Array(looks.length);
  for (let k = 0; k < width * height; k++) {
    for (let c = 0; c < 3; c++) {
      let count = 0;
      for (const look of looks) {
        const value = look[3 * k + c];
        if (value !== value) continue;
        // Few values: put each where it belongs.
        let i = count++;
        for (; i > 0 && values[i - 1] > value; i--) values[i] = values[i - 1];
        values[i] = value;
      }
      const middle = count === 0 ? own[3 * k + c] : (values[(count - 1) >> 1] + values[count >> 1]) / 2;
      rgba[4 * k + c] = Math.min(Math.max(Math.round(middle), 0), 255);
    }
    rgba[4 * k + 3] = 255;
  }
  return { width, height, rgba };
}
