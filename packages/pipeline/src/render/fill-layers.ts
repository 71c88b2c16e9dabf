import { fillName, fillPicture, type CarriedLayer, type LayerPicture } from '@lurn/core';
import { readFrames, type Clip, type ClipIndex } from '@lurn/media';

/** What a fill is made of, read from its clip. */
export async function readFill(
  one: CarriedLayer,
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<LayerPicture> {
  const { width, height } = clip;
  const slot = (): Uint8Array => new Uint8Array(4 * width * height);
  return fillPicture(one, clip, async (frame) => {
    const range = { first: frame, last: frame, index, signal, planes: 'rgba', slot } as const;
    for await (const { data } of readFrames(clip, range)) return { width, height, rgba: data };
    throw new RangeError(`Frame ${frame} of "${clip.name}" cannot be read.`);
  });
}

/** The pictures of all fills among layers, by the names that they go by. */
export async function readFills(
  layers: readonly CarriedLayer[],
  clip: Clip,
  index: ClipIndex,
  signal?: AbortSignal,
): Promise<Map<string, LayerPicture>> {
  const pictures = new Map<string, LayerPicture>();
  for (const one of layers)
    if (one.layer.content.kind === 'fill' && !one.layer.hidden)
      pictures.set(fillName(one.layer), await readFill(one, clip, index, signal));
  return pictures;
}
