import {
  FeaturePages,
  readoutInWords,
  SceneMotions,
  type Areas,
  type HeldScene,
  type ShotSummary,
} from '@lurn/core';
import type { Clip, ClipIndex } from '@lurn/media';
import { analyseScene, packScene } from '@lurn/pipeline';
import type { FrameRange } from './arguments.js';
import { Progress } from './progress.js';
import { UsageError } from './usage-error.js';

/** How the whole picture's motion is asked for. */
export interface SceneArguments {
  scene?: boolean;
  json?: boolean;
}

/** A scene with its features. */
export interface FoundScene extends HeldScene {
  features: FeaturePages;
}

/** Finds the whole picture's motion and says what moves alike in it. Called off by hand, it goes on with what it has. */
export async function findScene(
  clip: Clip,
  index: ClipIndex,
  areas: Areas,
  range: FrameRange,
): Promise<FoundScene> {
  const progress = new Progress('Finding the motion', 1 + range.last - range.first);
  const calledOff = new AbortController();
  process.once('SIGINT', () => calledOff.abort());
  const found = await analyseScene({
    clip,
    index,
    ...range,
    areas,
    onProgress: progress.update,
    signal: calledOff.signal,
  }).finally(() => progress.end());
  const packed = packScene(found, clip);
  return {
    shots: packed.shots,
    motions: SceneMotions.of(found.shots.map(({ groups }) => groups)),
    features: new FeaturePages(packed.features),
    choices: packed.shots.map(() => ({ group: 0, depth: null })),
  };
}

/** What is printed of the shots and their groups. */
export function printScene(shots: readonly ShotSummary[], asJson = false): void {
  if (asJson) {
    const told = shots.map(({ groups, ...shot }) => ({
      ...shot,
      groups: groups.map(({ middle: _, ...group }, g) => ({
        number: g + 1,
        ...group,
        residual: group.residuals[group.proposed],
      })),
    }));
    console.log(JSON.stringify({ shots: told }, null, 1));
    return;
  }
  shots.forEach(({ first, last, groups, bridged, readout }, s) => {
    if (shots.length > 1) console.log(`Shot ${s + 1}, frames ${first} to ${last}:`);
    groups.forEach((group, g) => {
      const { share, slide, residuals, proposed, depth } = group;
      const span = group.first > first || group.last < last ? `, frames ${group.first} to ${group.last}` : '';
      const how = g === 0 ? '' : depth === null ? ', moves by itself' : `, depth ${depth.toFixed(2)}`;
      console.log(
        `Group ${g + 1}  ${(100 * share).toFixed(1).padStart(4)} % of the picture, slides ${slide.toFixed(1)} px, ${proposed}, ${residuals[proposed].toFixed(2)} px RMS${how}${span}`,
      );
    });
    if (groups.length === 0) console.log('Nothing that moves together.');
    console.log(`Rolling shutter: ${readoutInWords(readout)}.`);
    for (const span of bridged)
      console.log(
        `Bridged: ${span.first === span.last ? `frame ${span.first}` : `frames ${span.first} to ${span.last}`}`,
      );
  });
}

/** The same scene with a group held in every shot that has it; counted from 1. */
export function holdingGroup(scene: FoundScene, number: number): FoundScene {
  const most = Math.max(...scene.shots.map(({ groups }) => groups.length));
  if (number > most)
    throw new UsageError(`There is no group ${number}; ${most === 1 ? 'one was' : `${most} were`} found.`);
  return {
    ...scene,
    choices: scene.shots.map(({ groups }) => ({
      group: number <= groups.length ? number - 1 : 0,
      depth: null,
    })),
  };
}
