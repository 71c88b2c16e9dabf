import type { SceneView } from '@lurn/contract';
import { FeaturePages, SceneMotions, splitPages, type HeldScene, type PackedPage } from '@lurn/core';
import { create } from 'zustand';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { useDocument } from './document';

/** What was found of a scene, as far as it has been fetched. */
interface Scene {
  /** The finding that it is of. */
  foundAt: string | null;
  motions: SceneMotions | null;
  features: FeaturePages | null;
  /** A group that is pointed at, in the list or on the picture. */
  lit: { shot: number; group: number } | null;
}

const nothing: Scene = { foundAt: null, motions: null, features: null, lit: null };

export const useScene = create<Scene>(() => nothing);

const { getState: get, setState: set } = useScene;

/** Fetches what belongs to the scene of the clip that is shown, when another one has been found. */
useDocument.subscribe(({ scene }) => {
  if ((scene?.foundAt ?? null) === get().foundAt) return;
  set({ ...nothing, foundAt: scene?.foundAt ?? null });
  if (scene) void attempt(() => fetchScene(scene));
});

const pagesIn = (joined: ArrayBuffer): PackedPage[] => splitPages(new Uint8Array(joined)) ?? [];

async function fetchScene({ id, foundAt, shots }: SceneView): Promise<void> {
  const [joinedMotions, joinedFeatures] = await Promise.all([
    api.packed(id, 'motions'),
    api.packed(id, 'features'),
  ]);
  if (get().foundAt !== foundAt) return;
  const motions = new SceneMotions(shots);
  for (const { page, bytes } of pagesIn(joinedMotions)) motions.unpackPage(page, bytes);
  set({
    motions,
    features: new FeaturePages(pagesIn(joinedFeatures).map(({ page, bytes }) => [page, bytes])),
  });
}

type Held = HeldScene & { features: FeaturePages | null };

let held: Held | null = null;
let heldOf: { scene: SceneView; motions: SceneMotions } | null = null;

/** What is held of the scene, where it has a say and has been fetched; the same object as long as nothing changes. */
export function heldScene(): Held | null {
  const { scene } = useDocument.getState();
  const { motions, features } = get();
  if (!scene?.used || !motions) return null;
  if (heldOf?.scene !== scene || heldOf.motions !== motions) {
    heldOf = { scene, motions };
    held = { shots: scene.shots, motions, features, choices: scene.shots };
  }
  return held;
}

/** The shot that a frame lies in. */
export const shotAt = (scene: SceneView | null, frame: number): number =>
  scene?.shots.findIndex(({ first, last }) => frame >= first && frame <= last) ?? -1;
