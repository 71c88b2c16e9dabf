import { durationOf, frameAt, startOf, type FrameTimes } from '../geometry/frame-times.js';
import type { CarriedPolygon } from '../track/region/region.js';
import { carriedRegion, carry, type Carriage, type Carriers } from './carry.js';
import type { PixelBox } from '../render/warp-picture.js';
import { isPatch, patchBox } from './patch.js';
import { filmName, type ClipContent } from './content/clip.js';
import type { Layer } from './layer.js';

/** A layer with how it is carried, and, where it shows a clip, which frame of that one on each of its own frames. */
export interface CarriedLayer {
  layer: Layer;
  carriage: Carriage;
  /** How its outlines are, where they ride on something else. */
  shapeCarriage?: Carriage | null;
  film?: Int32Array | null;
  /** What is held out of the region that holds it out, where it does. */
  heldOut?: readonly CarriedPolygon[] | null;
  /** Where what it has of the clip itself lies, on the frame that it was drawn on. */
  box?: PixelBox | null;
}

/**
 * The frame of a clip that a layer shows on each frame that it is on: at the clip's own rate from its first frame on, over and
 * over or held at its end; one frame throughout where it is a still.
 */
export function filmFrames(
  { content, first }: Pick<Layer, 'first'> & { content: ClipContent },
  times: FrameTimes,
  film: FrameTimes,
): Int32Array {
  const from = Math.min(content.from, film.frames - 1);
  const begin = startOf(film, from);
  const length = durationOf(film) - begin;
  return Int32Array.from({ length: times.frames }, (_, k) => {
    if (content.play === 'still' || k <= first) return from;
    // Half a microsecond on: frames of equal rates begin together, whatever their sums are rounded to.
    const passed = startOf(times, k) - startOf(times, first) + 5e-7;
    return frameAt(film, begin + (content.play === 'loop' ? passed % length : passed));
  });
}

/** Works out how layers are carried; `films` are the clips that they show, by the names that they have there. */
export const carryLayers = (
  layers: readonly Layer[],
  carriers: Carriers,
  films: ReadonlyMap<string, FrameTimes>,
): CarriedLayer[] =>
  layers.map((layer) => {
    const { content } = layer;
    const times = content.kind === 'clip' ? films.get(content.clip) : undefined;
    const film =
      content.kind === 'clip' && times ? filmFrames({ ...layer, content }, carriers.clip.times, times) : null;
    const { carrier } = layer.shape;
    const shapeCarriage = carrier && carry({ carrier, frame: layer.frame }, carriers);
    const box = isPatch(content) ? patchBox(layer, carriers.clip) : null;
    const { matte } = layer;
    const region = matte && 'regionId' in matte ? carriers.regions?.get(matte.regionId) : undefined;
    const heldOut = region ? carriedRegion(region, carriers.tracks, carriers.clip).holdOuts : null;
    return { layer, carriage: carry(layer, carriers), shapeCarriage, film, box, heldOut };
  });

/** The frames of clips that layers show on a frame. */
export const filmsAt = (
  layers: readonly CarriedLayer[],
  frame: number,
): { clip: string; frame: number; name: string }[] =>
  layers.flatMap(({ layer: { content, hidden, first, last }, film }) =>
    content.kind === 'clip' && film && !hidden && frame >= first && frame <= last
      ? [{ clip: content.clip, frame: film[frame], name: filmName(content.clip, film[frame]) }]
      : [],
  );
