import { SampleState, sure } from '@lurn/core';
import type { TrackSamples } from './track-samples';

/** Whether a sample is worth a look: lost, bridged or doubtful. */
export const isTrouble = (state: number, confidence: number): boolean =>
  state === SampleState.lost ||
  state === SampleState.bridged ||
  (state === SampleState.tracked && confidence < sure);

/** First frames of the stretches in which a track is lost, bridged or doubtful. */
export function troubles(samples: TrackSamples | undefined): number[] {
  const found: number[] = [];
  if (!samples) return found;
  let before = false;
  for (let k = 0; k < samples.frames; k++) {
    const now = isTrouble(samples.state(k), samples.confidence(k));
    if (now && !before) found.push(k);
    before = now;
  }
  return found;
}

/** A frame of one of several tracks. */
export interface Stop {
  id: string;
  frame: number;
}

/**
 * Of some frames of several tracks the one that comes next, or came last before, round and round: by frame, and on a frame
 * in the order of the tracks. Null where there is none.
 */
export function nextStop(
  tracks: readonly { id: string; frames: readonly number[] }[],
  from: Stop,
  step: 1 | -1,
): Stop | null {
  const order = new Map(tracks.map(({ id }, i) => [id, i]));
  const inOrder = (a: Stop, b: Stop): number =>
    a.frame - b.frame || (order.get(a.id) ?? 0) - (order.get(b.id) ?? 0);
  const all = tracks.flatMap(({ id, frames }) => frames.map((frame) => ({ id, frame }))).sort(inOrder);
  if (step > 0) return all.find((one) => inOrder(one, from) > 0) ?? all[0] ?? null;
  return all.findLast((one) => inOrder(one, from) < 0) ?? all.at(-1) ?? null;
}
