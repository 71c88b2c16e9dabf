import { dirname, resolve } from 'node:path';
import {
  carry,
  FormatError,
  textName,
  type CarriedLayer,
  type Carriers,
  type Layer,
  type LayerPicture,
} from '@lurn/core';
import { drawText, readLayerPicture } from '@lurn/media';
import type { DressStep } from '@lurn/pipeline';
import { encodingOf, type EncodingArguments } from './encoding.js';
import { withInput, type InputArguments } from './open-input.js';
import { planRecipe } from './recipe-plan.js';
import { UsageError } from './usage-error.js';
import { writeMovie } from './write-movie.js';

export interface DressArguments extends InputArguments, EncodingArguments {
  recipe: string;
}

/** Draws a recipe's layers onto a clip, without steadying it. */
export const dress = (path: string, args: DressArguments): Promise<string[]> =>
  withInput(path, args, async (clip): Promise<string[]> => {
    const encoding = encodingOf(clip, args, false);
    const plan = await planRecipe(args.recipe, clip, false);
    const { index, layers } = plan;
    if (layers.length === 0) throw new UsageError(`There is no layer in ${args.recipe}.`);
    const step = await dressStep(layers, plan.carriers, args.recipe);
    const last = index.pts.length - 1;
    await writeMovie('Dressing', { clip, index, first: 0, last, encoding, steps: [step], path: args.out });
    return plan.losses;
  });

/** The step that draws layers; pictures lie where the recipe says, from its own folder on. */
export async function dressStep(
  layers: readonly Layer[],
  carriers: Carriers,
  recipe: string,
): Promise<DressStep> {
  const pictures = new Map<string, LayerPicture>();
  for (const { name, content } of layers)
    if (content.kind === 'text') pictures.set(textName(content), drawText(content));
    else if (content.kind === 'picture' && !pictures.has(content.asset)) {
      try {
        pictures.set(
          content.asset,
          await readLayerPicture(resolve(dirname(recipe), content.asset), content.asset),
        );
      } catch (error) {
        throw new FormatError(`Layer "${name}": ${(error as Error).message}`);
      }
    }
  const carried: CarriedLayer[] = layers.map((layer) => ({ layer, carriage: carry(layer, carriers) }));
  return { kind: 'dress', layers: carried, pictures };
}
