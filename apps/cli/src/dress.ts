import { dirname, resolve } from 'node:path';
import { carryLayers, FormatError, textName, type Carriers, type Layer, type LayerPicture } from '@lurn/core';
import {
  drawText,
  frameTimes,
  indexClip,
  openClip,
  readLayerPicture,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import type { DressStep } from '@lurn/pipeline';
import { encodingOf, type EncodingArguments } from './encoding.js';
import { noteInput } from './files.js';
import { withInput, type InputArguments } from './open-input.js';
import { planRecipe } from './recipe-plan.js';
import { UsageError } from './usage-error.js';
import { writeMovie } from './write-movie.js';

export interface DressArguments extends InputArguments, EncodingArguments {
  recipe: string;
  only?: 'layers' | 'matte';
}

/** Draws a recipe's layers onto a clip, without steadying it. */
export const dress = (path: string, args: DressArguments): Promise<string[]> =>
  withInput(path, args, async (clip): Promise<string[]> => {
    const encoding = encodingOf(clip, args, args.only === 'layers');
    const plan = await planRecipe(args.recipe, clip, false);
    const { index, layers } = plan;
    if (layers.length === 0) throw new UsageError(`There is no layer in ${args.recipe}.`);
    const step = await dressStep(layers, plan.carriers, args.recipe, { clip, index });
    const last = index.pts.length - 1;
    const steps = [{ ...step, only: args.only }];
    await writeMovie('Dressing', { clip, index, first: 0, last, encoding, steps, path: args.out });
    return plan.losses;
  });

interface Film {
  clip: Clip;
  index: ClipIndex;
}

/** A file that a recipe names, from its own folder on. */
function beside(recipe: string, name: string): string {
  const path = resolve(dirname(recipe), name);
  noteInput(path);
  return path;
}

/** The step that draws layers; pictures and clips lie where the recipe says, from its own folder on. */
export async function dressStep(
  layers: readonly Layer[],
  carriers: Carriers,
  recipe: string,
  own: Film,
): Promise<DressStep> {
  const films = new Map<string, Film>([['', own]]);
  const pictures = new Map<string, LayerPicture>();
  for (const { name, content } of layers)
    if (content.kind === 'clip') {
      if (films.has(content.clip)) continue;
      try {
        const clip = await openClip(beside(recipe, content.clip));
        films.set(content.clip, { clip, index: await indexClip(clip) });
      } catch (error) {
        throw new FormatError(`Layer "${name}": ${(error as Error).message}`);
      }
    } else if (content.kind === 'text') {
      try {
        const font = content.font ? beside(recipe, content.font) : undefined;
        pictures.set(textName(content), drawText(content, font));
      } catch (error) {
        throw new FormatError(`Layer "${name}": ${(error as Error).message}`);
      }
    } else if (content.kind === 'picture' && !pictures.has(content.asset)) {
      try {
        pictures.set(content.asset, await readLayerPicture(beside(recipe, content.asset), content.asset));
      } catch (error) {
        throw new FormatError(`Layer "${name}": ${(error as Error).message}`);
      }
    }
  const times = new Map([...films].map(([name, { clip, index }]) => [name, frameTimes(index, clip)]));
  return { kind: 'dress', layers: carryLayers(layers, carriers, times), pictures, films };
}
