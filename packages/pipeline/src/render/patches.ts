import {
  isPatch,
  patchFrames,
  patchName,
  patchPicture,
  roundTrip,
  type RoundTrip,
  type CarriedLayer,
  type LayerPicture,
} from '@lurn/core';
import { MediaError, readFrames, type Clip, type ClipIndex } from '@lurn/media';

/** Frames that were read last: what is copied from one often is copied from again, stroke after stroke. */
const kept = new Map<number, LayerPicture>();
let keptOf: Clip | null = null;
const mostKept = 8;

/** A frame of a clip in red, green and blue, and at one go those after it that will be wanted. */
async function readFrame(
  clip: Clip,
  index: ClipIndex,
  wanted: number,
  last: number,
  signal?: AbortSignal,
): Promise<LayerPicture> {
  if (keptOf?.path !== clip.path) kept.clear();
  keptOf = clip;
  const { width, height } = clip;
  let found = kept.get(wanted);
  if (!found) {
    const slot = (): Uint8Array => new Uint8Array(4 * width * height);
    const until = Math.min(last, index.pts.length - 1);
    const range = { first: wanted, last: until, index, signal, planes: 'rgba', slot } as const;
    for await (const { data, frame } of readFrames(clip, range)) {
      kept.delete(frame);
      const [oldest] = kept.keys();
      if (kept.size >= mostKept) kept.delete(oldest);
      kept.set(frame, { width, height, rgba: data });
    }
    found = kept.get(wanted);
  }
  if (!found) throw new MediaError(`Frame ${wanted} of "${clip.name}" cannot be read.`);
  return found;
}

/** What a patch shows on a frame, made of its clip; null where that is nothing. */
export const readPatch = (
  one: CarriedLayer,
  frame: number,
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<LayerPicture | null> =>
  patchPicture(one, frame, (wanted, last = wanted) => readFrame(clip, index, wanted, last, signal));

/** What a frame loses on its way to where a patch was drawn and back; null where it does not lie there. */
export const readRoundTrip = (
  one: CarriedLayer,
  frame: number,
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<RoundTrip | null> =>
  roundTrip(one, frame, (wanted, last = wanted) => readFrame(clip, index, wanted, last, signal));

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
