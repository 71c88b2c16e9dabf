import {
  isPatch,
  patchFrames,
  patchName,
  patchPicture,
  type CarriedLayer,
  type LayerPicture,
} from '@lurn/core';
import { readFrames, type Clip, type ClipIndex } from '@lurn/media';

/** Frames that are kept while a patch is made: what is copied from one often is copied from again. */
const keptFrames = 6;

/** What a patch shows on a frame, made of its clip; null where that is nothing. */
export async function readPatch(
  one: CarriedLayer,
  frame: number,
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<LayerPicture | null> {
  const { width, height } = clip;
  const slot = (): Uint8Array => new Uint8Array(4 * width * height);
  const kept = new Map<number, LayerPicture>();
  return patchPicture(one, frame, async (wanted) => {
    const known = kept.get(wanted);
    if (known) return known;
    const range = { first: wanted, last: wanted, index, signal, planes: 'rgba', slot } as const;
    for await (const { data } of readFrames(clip, range)) {
      const picture = { width, height, rgba: data };
      const [oldest] = kept.keys();
      if (kept.size >= keptFrames) kept.delete(oldest);
      kept.set(wanted, picture);
      return picture;
    }
    throw new RangeError(`Frame ${wanted} of "${clip.name}" cannot be read.`);
  });
}

/** The pictures of all patches among layers, by the names that they go by. */
export async function readPatches(
  layers: readonly CarriedLayer[],
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<Map<string, LayerPicture>> {
  const pictures = new Map<string, LayerPicture>();
  for (const one of layers) {
    const { layer } = one;
    if (!isPatch(layer.content) || layer.hidden) continue;
    for (const frame of patchFrames(layer)) {
      const picture = await readPatch(one, frame, clip, index, signal);
      if (picture) pictures.set(patchName(layer, frame), picture);
    }
  }
  return pictures;
}
