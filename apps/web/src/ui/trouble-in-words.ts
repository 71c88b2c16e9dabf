import type { Sample } from '@lurn/core';
import type { Trouble, TroubleKind } from '../state/troubles';
import { reasonInWords } from './reason-in-words';

const kinds: Record<TroubleKind, string> = {
  lost: 'lost',
  doubtful: 'doubtful',
  bridged: 'bridged',
  apart: 'apart from the others',
  jump: 'leaps',
};

export const kindInWords = ({ kind, pixels }: Trouble): string =>
  pixels === undefined ? kinds[kind] : `${kinds[kind]}, ${pixels.toFixed(pixels < 10 ? 1 : 0)} px`;

/** Why a trouble is one, and what can be done. */
export function adviceOf({ kind }: Trouble, sample: Sample | null): { why: string; help: string } {
  switch (kind) {
    case 'apart':
      return {
        why: 'The track goes another way here than the others that make the motion.',
        help: 'See whether it is still on its feature; if not, place a key. If it is meant to go its own way, leave it out of the motion.',
      };
    case 'jump':
      return {
        why: 'The point changes its speed here as it never else does.',
        help: 'If it has leapt onto another feature, place a key here and follow the frames about it anew.',
      };
    case 'lost':
    case 'doubtful':
    case 'bridged':
      return (
        reasonInWords(sample) ?? {
          why: kind === 'bridged' ? 'The path was carried across these frames.' : 'It is not certain here.',
          help: 'Compare the pictures: if the box is right, wave it through; if not, place a key.',
        }
      );
  }
}
