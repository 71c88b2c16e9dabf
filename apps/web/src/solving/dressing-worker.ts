import { carry, SceneMotions, textName, type CarriedLayer, type Layer, type LayerPicture } from '@lurn/core';
import { SampleKeeper } from './sample-keeper';
import type { SolvingOrder } from './solving-order';

// Works out how layers are carried, and decodes the pictures that they show.

/** The layers that are seen, and all that they ride on. */
export interface DressingOrder extends Pick<SolvingOrder, 'tracks' | 'clip' | 'scene'> {
  layers: Layer[];
}

export interface DressingNews {
  carried: CarriedLayer[];
  pictures: Map<string, LayerPicture>;
}

const keeper = new SampleKeeper();
const known = new Map<string, Promise<LayerPicture | null>>();

/** A picture of the server's; null where it cannot be had. */
async function fetched(address: string): Promise<LayerPicture | null> {
  const response = await fetch(address);
  if (!response.ok) return null;
  const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'none' });
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
  if (!context) return null;
  context.drawImage(bitmap, 0, 0);
  return { width, height, rgba: new Uint8Array(context.getImageData(0, 0, width, height).data.buffer) };
}

self.onmessage = async ({ data: { layers, tracks, clip, scene } }: MessageEvent<DressingOrder>) => {
  const samples = keeper.take(tracks, clip.times.frames);
  let held = null;
  if (scene?.pages) {
    const motions = new SceneMotions(scene.shots);
    for (const [page, bytes] of scene.pages) motions.unpackPage(page, bytes);
    held = { shots: scene.shots, choices: scene.choices, motions };
  }
  const carriers = { clip, scene: held, tracks: new Map(tracks.map(({ id }, i) => [id, samples[i]])) };
  const carried = layers.map((layer) => ({ layer, carriage: carry(layer, carriers) }));
  const pictures = new Map<string, LayerPicture>();
  for (const { content } of layers) {
    if (content.kind !== 'picture' && content.kind !== 'text') continue;
    const asset = content.kind === 'text' ? textName(content) : content.asset;
    const address =
      content.kind === 'text'
        ? `/api/text-pictures?of=${encodeURIComponent(asset)}`
        : `/api/assets/${encodeURIComponent(asset)}`;
    const finding = known.get(asset) ?? fetched(address).catch(() => null);
    known.set(asset, finding);
    const picture = await finding;
    if (picture) pictures.set(asset, picture);
    else known.delete(asset);
  }
  self.postMessage({ carried, pictures } satisfies DressingNews);
};
