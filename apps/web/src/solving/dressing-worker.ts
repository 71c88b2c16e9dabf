import type { ClipView } from '@lurn/contract';
import {
  carry,
  carryLayers,
  isPatch,
  patchFrames,
  patchName,
  SceneMotions,
  textName,
  unpackPatch,
  type Carriage,
  type CarriedLayer,
  type FrameTimes,
  type Layer,
  type LayerPicture,
  type Region,
} from '@lurn/core';
import { timesOf } from '../state/clip-times';
import { SampleKeeper } from './sample-keeper';
import type { SolvingOrder } from './solving-order';

// Works out how layers are carried, and decodes the pictures that they show.

/** The layers that are seen, and all that they ride on. */
export interface DressingOrder extends Pick<SolvingOrder, 'tracks' | 'clip' | 'scene'> {
  layers: Layer[];
  regions: ReadonlyMap<string, Region>;
  /** What the picture is held by that layers are worked on in; null where it is not shown. */
  held: Pick<Layer, 'carrier' | 'frame'> | null;
  clipId: string;
  /** Counts what has changed of what carries layers. */
  revision: number;
}

export interface DressingNews {
  carried: CarriedLayer[];
  pictures: Map<string, LayerPicture>;
  held: Carriage | null;
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

const lengths = new Map<string, FrameTimes>();

/** When the frames of another clip are shown; null where that cannot be had. */
async function lengthOf(id: string): Promise<FrameTimes | null> {
  const known = lengths.get(id);
  if (known) return known;
  const response = await fetch(`/api/clips/${encodeURIComponent(id)}`).catch(() => null);
  if (!response?.ok) return null;
  const times = timesOf((await response.json()) as ClipView);
  if (times.frames > 0) lengths.set(id, times);
  return times.frames > 0 ? times : null;
}

/** Patches that were made, and what of: they take seconds. */
const patches = new Map<string, { mark: string; picture: LayerPicture }>();

/** What a layer shows of the clip itself, by the names that it goes by. */
async function patchesOf(layer: Layer, clipId: string, revision: number): Promise<Map<string, LayerPicture>> {
  const { content, shape, frame, first, last, carrier } = layer;
  const made = new Map<string, LayerPicture>();
  for (const seenOn of patchFrames(layer)) {
    const name = patchName(layer, seenOn);
    const mark = `${JSON.stringify([content, shape, frame, first, last, carrier])} ${revision}`;
    if (patches.get(name)?.mark !== mark) {
      const response = await fetch(`/api/clips/${encodeURIComponent(clipId)}/frames/${seenOn}/patch`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ layer }),
      }).catch(() => null);
      if (response?.ok) patches.set(name, { mark, picture: unpackPatch(await response.arrayBuffer()) });
    }
    const known = patches.get(name);
    if (known) made.set(name, known.picture);
  }
  return made;
}

self.onmessage = async ({
  data: { layers, regions, tracks, clip, scene, held: by, clipId, revision },
}: MessageEvent<DressingOrder>) => {
  const samples = keeper.take(tracks, clip.times.frames);
  let held = null;
  if (scene?.pages) {
    const motions = new SceneMotions(scene.shots);
    for (const [page, bytes] of scene.pages) motions.unpackPage(page, bytes);
    held = { shots: scene.shots, choices: scene.choices, motions };
  }
  const carriers = {
    clip,
    scene: held,
    regions,
    tracks: new Map(tracks.map(({ id }, i) => [id, samples[i]])),
  };
  const films = new Map<string, FrameTimes>([['', clip.times]]);
  for (const { content } of layers) {
    const times = content.kind === 'clip' && content.clip ? await lengthOf(content.clip) : null;
    if (content.kind === 'clip' && times) films.set(content.clip, times);
  }
  const carried = carryLayers(layers, carriers, films);
  const pictures = new Map<string, LayerPicture>();
  for (const layer of layers) {
    const { content } = layer;
    if (isPatch(content)) {
      if (!layer.hidden)
        for (const [name, picture] of await patchesOf(layer, clipId, revision)) pictures.set(name, picture);
      continue;
    }
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
  self.postMessage({ carried, pictures, held: by && carry(by, carriers) } satisfies DressingNews);
};
