import type { CarriedLayer } from '../dress/film.js';
import type { ReadFrame } from './cut-out.js';
import { fillPicture } from './fill-picture.js';
import type { LayerPicture } from './picture-sampler.js';
import { repairPicture } from './repair-picture.js';

/** A picture as bytes: its width and height as 32-bit numbers, lowest byte first, then its pixels. */
export function packPatch({ width, height, rgba }: LayerPicture): Uint8Array {
  const bytes = new Uint8Array(8 + rgba.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, width, true);
  view.setUint32(4, height, true);
  bytes.set(rgba, 8);
  return bytes;
}

export function unpackPatch(bytes: ArrayBuffer): LayerPicture {
  const view = new DataView(bytes);
  return { width: view.getUint32(0, true), height: view.getUint32(4, true), rgba: new Uint8Array(bytes, 8) };
}

/**
 * The picture of a patch on a frame, made of the clip's own: `read` has a frame of it in red, green and blue at its own size.
 * Null for what is no patch, or has nothing to show.
 */
export function patchPicture(
  one: CarriedLayer,
  frame: number,
  read: ReadFrame,
): Promise<LayerPicture | null> {
  const { layer, box } = one;
  const { content } = layer;
  if (!box) return Promise.resolve(null);
  if (content.kind === 'fill') return fillPicture(one, box, read);
  if (content.kind === 'repair')
    return repairPicture({ ...one, layer: { ...layer, content } }, box, frame, read);
  return Promise.resolve(null);
}
