import type { PairLayout } from '@lurn/core';
import { openClip } from '@lurn/media';
import { pairWords } from '@lurn/pipeline';
import type { FrameRange } from './arguments.js';
import { encodingOf, type EncodingArguments } from './encoding.js';
import { indexWithProgress } from './follow.js';
import { withInput, type InputArguments } from './open-input.js';
import { UsageError } from './usage-error.js';
import { writeMovie } from './write-movie.js';

export interface CompareArguments extends InputArguments, EncodingArguments {
  layout: PairLayout;
  range?: FrameRange;
  words: boolean;
}

/** Writes a movie that shows a clip together with what was made of it. */
export const compare = (path: string, other: string, args: CompareArguments): Promise<void> =>
  withInput(path, args, async (clip) => {
    const encoding = encodingOf(clip, args, false);
    const index = await indexWithProgress(clip);
    const made = await openClip(other);
    const madeIndex = await indexWithProgress(made);
    const [frames, madeFrames] = [index.pts.length, madeIndex.pts.length];
    const { first, last } = args.range ?? { first: 0, last: frames - 1 };
    if (last >= frames)
      throw new UsageError(`Frame ${last} is beyond the clip's end; its frames are 0 to ${frames - 1}.`);
    const count = last - first + 1;
    // A movie of the whole clip is cut alike; one of a range is that range.
    const from = madeFrames === frames ? first : 0;
    if (madeFrames !== frames && madeFrames !== count)
      throw new UsageError(
        `${other} has ${madeFrames} frames, the ${args.range ? 'range' : 'clip'} ${count}: give the --range A:B of the clip that it shows.`,
      );
    await writeMovie('Comparing', {
      ...{ clip, index, first, last, encoding, path: args.out },
      beside: { clip: made, index: madeIndex, first: from },
      steps: [{ kind: 'pair', layout: args.layout, after: 'beside', first }],
      words: args.words ? pairWords[args.layout] : [],
    });
  });
