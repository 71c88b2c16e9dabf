import { readFile } from 'node:fs/promises';
import { FormatError, readMotionJson } from '@lurn/core';
import { openClip } from '@lurn/media';
import { placementsFrom, treatedTrouble } from '@lurn/pipeline';
import { encodingOf, type EncodingArguments } from './encoding.js';
import { indexWithProgress } from './follow.js';
import { withInput, type InputArguments } from './open-input.js';
import { UsageError } from './usage-error.js';
import { writeMovie } from './write-movie.js';

export interface GiveBackArguments extends InputArguments, EncodingArguments {
  treated: string;
  motion: string;
}

/** Puts the original motion back onto a movie that was treated in its held form. */
export const giveBack = (path: string, args: GiveBackArguments): Promise<void> =>
  withInput(path, args, async (clip) => {
    const encoding = encodingOf(clip, args, false);
    const index = await indexWithProgress(clip);
    const frames = index.pts.length;
    const text = await readFile(args.motion, 'utf8');
    const motion = motionFrom(text, { ...clip, frames }, args.motion);
    const treated = await openClip(args.treated);
    const treatedIndex = await indexWithProgress(treated);
    const held = motion.outputFromFrame.length / 9;
    const { width, height } = motion.output ?? clip;
    const trouble = treatedTrouble(
      { ...treated, name: args.treated, frames: treatedIndex.pts.length },
      { width, height, frames: held },
    );
    if (trouble) throw new UsageError(trouble);
    const first = 0;
    await writeMovie('Giving back', {
      ...{ clip, index, first, last: frames - 1, encoding, path: args.out },
      beside: { clip: treated, index: treatedIndex, first: 0, from: motion.first },
      steps: [
        {
          kind: 'give-back',
          placements: placementsFrom(motion, frames),
          rows: motion.rows ?? null,
          first: motion.first,
          last: motion.first + held - 1,
        },
      ],
    });
  });

function motionFrom(text: string, clip: Parameters<typeof readMotionJson>[1], path: string) {
  try {
    return readMotionJson(text, clip);
  } catch (error) {
    if (error instanceof FormatError) throw new Error(`${path}: ${error.message}`);
    throw error;
  }
}
