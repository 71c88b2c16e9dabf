import type { CarriedLayer } from '../dress/film.js';
import type { RepairContent } from '../dress/content/repair.js';
import { strokesOn, type Stroke } from '../dress/stroke.js';
import { identity, matrixAt } from '../geometry/mat3.js';
import { cutOut, medianOf, relight, type ReadFrame } from './cut-out.js';
import { drawnIn } from './colour-key.js';
import { healed } from './heal.js';
import type { LayerPicture } from './picture-sampler.js';
import { strokeCoverage } from './stroke-coverage.js';
import type { PixelBox } from './warp-picture.js';

/** What is copied is the middle of so many frames about the one meant: grain that would stand still is not copied along. */
const looksAbout = 2;

/**
 * What the strokes of a repair that are seen on a frame paint: colours not multiplied by alpha, which says how much is painted.
 * Where nothing is, the colours are those of the frame that the layer was drawn on: by them its light is known. `read` has a
 * frame of the clip in red, green and blue at its own size.
 */
export async function repairPicture(
  { layer, carriage }: CarriedLayer & { layer: { content: RepairContent } },
  box: PixelBox,
  seenOn: number,
  read: ReadFrame,
): Promise<LayerPicture> {
  const { content, frame, shape } = layer;
  const strokes = strokesOn(content, seenOn).map((i) => content.strokes[i]);
  const [width, height] = [box.right - box.left, box.bottom - box.top];
  const count = width * height;
  const covered = strokes.map((stroke) => strokeCoverage(stroke, box));
  const rim = rimOf(covered, count);
  const moves = layer.carrier.kind !== 'still';
  const near = (from: number): number[] =>
    moves
      ? Array.from({ length: 2 * looksAbout + 1 }, (_, i) => from + i - looksAbout).filter(
          (k) => k === from || carriage.unseen[k] === 0,
        )
      : [from];

  // All that are near are read at one go.
  await read(near(frame)[0], near(frame)[near(frame).length - 1]);
  const own = cutOut(await read(frame), box, identity);

  /** A frame as it is carried to the layer's, aside, in the layer's light. */
  const lookAt = async (from: number, [dx, dy]: readonly [number, number]): Promise<Float32Array> => {
    const taken = near(from);
    const looks: Float32Array[] = [];
    for (const k of taken) {
      const picture = await read(k, taken[taken.length - 1]);
      const matrix = matrixAt(carriage.frameFromLayer, k);
      const beside = {
        left: box.left + dx,
        right: box.right + dx,
        top: box.top + dy,
        bottom: box.bottom + dy,
      };
      const look = cutOut(picture, beside, matrix);
      if (k !== frame) relight(look, own, rim, cutOut(picture, box, matrix));
      looks.push(look);
    }
    return medianOf(looks, looks[taken.indexOf(from)]);
  };
  const base = await lookAt(frame, [0, 0]);
  const paint = new Painting(base, width);
  for (const [i, stroke] of strokes.entries()) {
    if (stroke.how === 'erase') paint.erase(covered[i]);
    else if (stroke.how === 'colour') paint.lay(stroke.colour, covered[i]);
    else paint.copy(await lookAt(stroke.from, stroke.aside), covered[i], stroke.how);
  }
  return paint.picture(height, Math.round(shape.choke));
}

/** Pixels that no stroke is near: every fifth, and all if there are few. */
function rimOf(covered: readonly Float32Array[], count: number): number[] {
  const free = Array.from({ length: count }, (_, k) => k).filter((k) => covered.every((one) => one[k] === 0));
  return free.length > 4000 ? free.filter((_, i) => i % 5 === 0) : free;
}

/** Colours laid one over another, and how much is laid. */
class Painting {
  private readonly colours: Float32Array;
  private readonly alpha: Float32Array;

  constructor(
    private readonly base: Float32Array,
    private readonly width: number,
  ) {
    this.colours = base.slice();
    this.alpha = new Float32Array(base.length / 3);
  }

  lay(colour: Stroke['colour'], covered: Float32Array): void {
    this.over((_, c) => 255 * colour[c], covered);
  }

  copy(look: Float32Array, covered: Float32Array, how: 'clone' | 'heal'): void {
    const inside = Uint8Array.from(covered, (v) => Number(v > 0));
    const fitted = how === 'heal' ? healed(look, this.seen(), inside, this.width) : look;
    // Beyond the picture there is nothing to copy.
    this.over((k, c) => fitted[3 * k + c], covered);
  }

  erase(covered: Float32Array): void {
    covered.forEach((share, k) => (this.alpha[k] *= 1 - share));
  }

  picture(height: number, choke: number): LayerPicture {
    const { width, colours } = this;
    const alpha =
      choke === 0
        ? this.alpha
        : drawnIn(drawnIn(this.alpha, width, height, 1, choke), width, height, width, choke);
    const rgba = new Uint8Array(4 * width * height);
    const level = (v: number): number => Math.min(Math.max(Math.round(v), 0), 255);
    alpha.forEach((a, k) => {
      for (let c = 0; c < 3; c++) rgba[4 * k + c] = level(a > 0 ? colours[3 * k + c] : this.base[3 * k + c]);
      rgba[4 * k + 3] = level(255 * a);
    });
    return { width, height, rgba };
  }

  /** What is seen: what is laid over the frame. */
  private seen(): Float32Array {
    const { base, colours, alpha } = this;
    return base.map((v, i) => v + alpha[Math.floor(i / 3)] * (colours[i] - v));
  }

  private over(colour: (pixel: number, channel: number) => number, covered: Float32Array): void {
    const { colours, alpha } = this;
    covered.forEach((share, k) => {
      const first = colour(k, 0);
      if (share === 0 || first !== first) return;
      const before = alpha[k] * (1 - share);
      const after = share + before;
      for (let c = 0; c < 3; c++)
        colours[3 * k + c] = (share * colour(k, c) + before * colours[3 * k + c]) / after;
      alpha[k] = after;
    });
  }
}
