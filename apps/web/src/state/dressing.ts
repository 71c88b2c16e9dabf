import { soloed, tracksUnder, type CarriedLayer, type LayerPicture } from '@lurn/core';
import { create } from 'zustand';
import { orderFor } from '../solving/solver';
import type { DressingNews, DressingOrder } from '../solving/dressing-worker';
import { timesOf } from './clip-times';
import { useDocument } from './document';
import { heldBy, useHeld } from './held';
import { useLayers } from './layers';
import { heldScene, useScene } from './scene';
import { useView } from './view';

/** The layers that are seen, with how they are carried and the pictures that they show. */
export const useDressing = create<{ carried: CarriedLayer[]; pictures: ReadonlyMap<string, LayerPicture> }>(
  () => ({ carried: [], pictures: new Map() }),
);

let worker: Worker | null = null;
let busy = false;
/** Counts changes of what layers ride on. */
let carried = 0;
let again = false;

/** Works out anew how layers are carried; of orders that pile up only the latest counts. */
function dress(): void {
  const { clip, layers, samples, steady, tracks: known } = useDocument.getState();
  if (!clip || !steady) return;
  const seen = soloed(layers);
  const by = heldBy();
  if (!by && seen.every(({ hidden }) => hidden)) {
    if (useDressing.getState().carried.some(({ layer }) => !layer.hidden))
      useDressing.setState({ carried: [] });
    return;
  }
  if (busy) {
    again = true;
    return;
  }
  worker ??= new Worker(new URL('../solving/dressing-worker.ts', import.meta.url), { type: 'module' });
  busy = true;
  worker.onmessage = ({ data }: MessageEvent<DressingNews>) => {
    busy = false;
    const { held, ...dressed } = data;
    if (useDocument.getState().clip?.id === clip.id) {
      useDressing.setState(dressed);
      useHeld.setState({ carriage: held });
    }
    if (again) {
      again = false;
      dress();
    }
  };
  const regions = new Map(known.flatMap(({ id, region }) => (region ? [[id, region] as const] : [])));
  const ids = tracksUnder(seen, regions);
  for (const id of by?.carrier.trackIds ?? []) ids.add(id);
  const { width, height, pixelAspect } = clip;
  const ridesScene =
    by?.carrier.kind === 'scene' ||
    seen.some(({ carrier, shape }) => [carrier, shape.carrier].some((one) => one?.kind === 'scene'));
  const { tracks, ...order } = orderFor(null, {
    tracks: known.flatMap(({ id, region }) => {
      const own = ids.has(id) ? samples.get(id) : undefined;
      return own ? [{ id, samples: own, region }] : [];
    }),
    clip: { width, height, pixelAspect, times: timesOf(clip) },
    settings: steady,
    scene: ridesScene ? heldScene() : null,
  });
  const rides = { tracks, clip: order.clip, scene: order.scene };
  worker.postMessage({
    ...rides,
    ...{ regions, layers: seen, held: by, clipId: clip.id, revision: carried },
  } satisfies DressingOrder);
}

useDocument.subscribe((now, before) => {
  if (now.clip?.id !== before.clip?.id) useDressing.setState({ carried: [], pictures: new Map() });
  if (now.samples !== before.samples || now.scene !== before.scene) carried++;
  const rides = tracksUnder(now.layers).size > 0 || heldBy() !== null;
  if (
    now.layers !== before.layers ||
    now.clip?.id !== before.clip?.id ||
    (rides && (now.samples !== before.samples || now.tracks !== before.tracks)) ||
    ((now.layers.length > 0 || heldBy()) && now.scene !== before.scene)
  )
    dress();
});

useScene.subscribe((now, before) => {
  if (now.motions !== before.motions && useDocument.getState().layers.length > 0) dress();
});

// Another layer chosen, another thing to hold by.
useView.subscribe((now, before) => now.view !== before.view && heldBy() && dress());
useHeld.subscribe((now, before) => now.own !== before.own && heldBy() && dress());
useLayers.subscribe((now, before) => now.selected !== before.selected && heldBy() && dress());
