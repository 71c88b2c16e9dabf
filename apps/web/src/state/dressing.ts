import {
  soloed,
  tracksUnder,
  type Carriage,
  type CarriedLayer,
  type Layer,
  type LayerPicture,
} from '@lurn/core';
import { create } from 'zustand';
import { orderFor } from '../solving/solver';
import type { DressingNews, DressingOrder } from '../solving/dressing-worker';
import { timesOf } from './clip-times';
import { useDocument } from './document';
import { heldScene, useScene } from './scene';

/** What holds the picture that layers are worked on in, and the frame that it is held as on. */
export type HeldBy = Pick<Layer, 'carrier' | 'frame'>;

/** The layers that are seen, with how they are carried and the pictures that they show; and how the picture is held. */
export const useDressing = create<{
  carried: CarriedLayer[];
  pictures: ReadonlyMap<string, LayerPicture>;
  by: HeldBy | null;
  held: Carriage | null;
}>(() => ({ carried: [], pictures: new Map(), by: null, held: null }));

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
  const { by } = useDressing.getState();
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
    if (useDocument.getState().clip?.id === clip.id) useDressing.setState(data);
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
  const rides = tracksUnder(now.layers).size > 0 || useDressing.getState().by !== null;
  if (
    now.layers !== before.layers ||
    now.clip?.id !== before.clip?.id ||
    (rides && (now.samples !== before.samples || now.tracks !== before.tracks)) ||
    ((now.layers.length > 0 || useDressing.getState().by) && now.scene !== before.scene)
  )
    dress();
});

useScene.subscribe((now, before) => {
  if (now.motions !== before.motions && useDocument.getState().layers.length > 0) dress();
});

/** Has the picture held by something, or no longer. */
export function hold(by: HeldBy | null): void {
  if (JSON.stringify(by) === JSON.stringify(useDressing.getState().by)) return;
  useDressing.setState({ by });
  if (by) dress();
}
