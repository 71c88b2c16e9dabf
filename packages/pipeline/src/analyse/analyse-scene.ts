import {
  findGroups,
  packFeatures,
  parsePixelAspect,
  SceneFeatures,
  SceneMotions,
  summaryOf,
  type Areas,
  type ShotFeatures,
  type ShotFrame,
  type ShotGroups,
} from '@lurn/core';
import { MediaError, type ClipIndex } from '@lurn/media';
import { Passes, type PassesOptions } from '../pass/pass.js';
import type { PackedScene } from '../tasks.js';
import { featuresModule, type FeaturesOrder } from './scene-features.js';

export interface AnalyseSceneOptions extends Pick<PassesOptions, 'clip' | 'read' | 'signal'> {
  index: ClipIndex;
  /** The frames that are looked at, both included. */
  first: number;
  last: number;
  /** Where features are looked for. */
  areas?: Areas;
  /** Told the number of frames looked at so far, and how many there will be. */
  onProgress?: (frames: number, total: number) => void;
}

/** What the scene of a clip is found to be: shot by shot, what was followed, and the groups that move alike. */
export interface SceneFound {
  shots: { features: ShotFeatures; groups: ShotGroups }[];
}

/**
 * Finds how the whole picture of a clip moves: follows its features in one decoding pass, then sorts them into motion groups,
 * each shot by itself. Called off, it makes do with the frames that it has seen. Throws a MediaError where nothing can be
 * followed.
 */
export async function analyseScene(options: AnalyseSceneOptions): Promise<SceneFound> {
  const { clip, first, last, signal } = options;
  const features = new SceneFeatures();
  try {
    await follow(options, features);
  } catch (error) {
    if (!signal?.aborted || features.count === 0) throw error;
  }
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  const size = { width: clip.width * pixelAspect, height: clip.height };
  const shots = features
    .shots(pixelAspect)
    .map((shot) => ({ features: shot, groups: findGroups(shot, size) }));
  if (shots.every(({ groups }) => groups.groups.length === 0))
    throw new MediaError(whyNothing(clip.name, first, last));
  return { shots };
}

/** What can be done about a clip in which nothing moves together. */
const whyNothing = (name: string, first: number, last: number): string =>
  first === last
    ? `"${name}" has one frame to look at: there is no motion in it.`
    : `Nothing in "${name}" can be followed long enough to tell how the picture moves. Place a point on something with contrast, or steady it by hand.`;

async function follow(options: AnalyseSceneOptions, features: SceneFeatures): Promise<void> {
  const { clip, index, first, last, areas, read, signal, onProgress } = options;
  let looked = 0;
  const onLooked = (): void => onProgress?.(++looked, last - first + 1);
  const passes = new Passes({ clip, index, planes: 'luma', threads: 1, read, signal, onLooked });
  const order: FeaturesOrder = { within: [], without: [], ...areas, last };
  try {
    await passes.run(
      1,
      [{ first, last }],
      [
        {
          module: featuresModule,
          share: () => [order],
          take: (found) => features.add(found as ShotFrame[]),
        },
      ],
    );
  } finally {
    passes.end();
  }
}

/** What was found, in pages of frames, as it is kept. */
export function packScene({ shots }: SceneFound, clip: AnalyseSceneOptions['clip']): PackedScene {
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  const motions = SceneMotions.of(shots.map(({ groups }) => groups));
  return {
    shots: shots.map(({ groups }) => summaryOf(groups)),
    motions: motions.pages.map((page) => [page, motions.packPage(page)]),
    features: motions.pages.map((page) => [page, packFeatures(page, shots, pixelAspect)]),
  };
}
