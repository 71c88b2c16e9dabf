import { FormatError, type Carriers } from '@lurn/core';
import { type Recipe } from '@lurn/model';
import type { Clip, ClipIndex } from '@lurn/media';
import { indexWithProgress } from './follow.js';
import { followRecipe, openRecipe, regionsOf, type FollowedTrack } from './recipe.js';
import { steadyClip } from './regions.js';
import { findScene, printScene, type FoundScene } from './scene.js';

/** A recipe, with all that it rides on found anew in a clip. */
export interface RecipePlan extends Pick<Recipe, 'steady' | 'layers'> {
  index: ClipIndex;
  tracks: FollowedTrack[];
  scene: FoundScene | null;
  /** What layers ride on. */
  carriers: Carriers;
  /** What was lost on the way, a sentence each. */
  losses: string[];
}

/** Follows a recipe anew on a clip. */
export async function planRecipe(path: string, clip: Clip, json: boolean): Promise<RecipePlan> {
  const index = await indexWithProgress(clip);
  const frames = index.pts.length;
  try {
    const recipe = await openRecipe(path, clip, frames);
    const { tracks, losses } = await followRecipe(recipe, clip, index);
    let scene: FoundScene | null = null;
    if (recipe.scene) {
      scene = await findScene(clip, index, recipe.scene.areas, { first: 0, last: frames - 1 });
      printScene(scene.shots, json);
      const { choices } = recipe.scene;
      scene = {
        ...scene,
        choices: scene.shots.map(({ groups }, s) => {
          const choice = choices.at(s);
          return choice && choice.group < groups.length ? choice : { group: 0, depth: null };
        }),
      };
    }
    const carriers: Carriers = {
      clip: steadyClip(clip, index),
      tracks: new Map(tracks.map(({ id, samples }) => [id, samples])),
      scene,
      regions: regionsOf(recipe.tracks),
    };
    return { index, tracks, scene, carriers, losses, steady: recipe.steady, layers: recipe.layers };
  } catch (error) {
    if (error instanceof FormatError) throw new Error(`${path}: ${error.message}`);
    throw error;
  }
}
