import {
  reasonNames,
  reasonWords,
  sampleStateNames,
  SampleState,
  type ReasonName,
  type Sample,
} from '@lurn/core';
import type { TrackSamples } from '../state/track-samples';
import { isTrouble } from '../state/troubles';

/** What can be done about it. */
const help: Record<ReasonName, string> = {
  none: '',
  unlike: 'If the box is right, place a key here.',
  covered: 'Bridge the stretch, or place keys in it.',
  faint: 'Try a larger box, or a place with more contrast.',
  slides: 'Put the box where two edges meet.',
  turn: 'Let the box shift only, or take more of what is about it into the box.',
  parted: 'Try a smaller box on one thing, or a shape that may do more.',
  coded: 'Choose a place with more contrast.',
  double: 'Try a larger box, or a smaller search box.',
  leapt: 'See whether it is still the point; if not, place a key.',
  adapted: 'If the box is right, place a key here.',
  passes: 'One of the two has slipped: place a key here.',
  missing: 'Bridge the stretch, or place a key where it is to be seen again.',
  elsewhere: 'If the box should be there, place a key.',
  cut: 'A track does not go on into another shot.',
  outside: 'Follow something else from a key before this frame on.',
};

/** What is bridged has been dealt with, if well. */
const bridgedHelp = 'Where the bridge leads astray, place a key.';

/** Why a sample is worth a look, and what can be done; null where it is not, or where nobody has said. */
export function reasonInWords(sample: Sample | null): { why: string; help: string } | null {
  if (!sample?.reason || !isTrouble(sample.state, sample.confidence)) return null;
  const name = reasonNames[sample.reason];
  const words = reasonWords[name];
  const way = sample.state === SampleState.bridged ? bridgedHelp : help[name];
  return { why: `${words[0].toUpperCase()}${words.slice(1)}.`, help: way };
}

/** A stretch of trouble by its first frame: what it is, and why. */
export function troubleInWords(samples: Pick<TrackSamples, 'get'> | undefined, frame: number): string {
  const sample = samples?.get(frame);
  if (!sample) return '';
  const { state, reason } = sample;
  const what = state === SampleState.tracked ? 'doubtful' : sampleStateNames[state];
  return `From frame ${frame} ${what}${reason ? `: ${reasonWords[reasonNames[reason]]}` : ''}`;
}
