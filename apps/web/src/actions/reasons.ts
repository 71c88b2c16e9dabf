import { isSteadied } from '@lurn/core';
import { runningJob, useDocument } from '../state/document';
import { usePlayhead } from '../state/playhead';
import { useSelection } from '../state/selection';
import { useView } from '../state/view';
import type { Action } from './action';

// Why things cannot be done, in the words that menus and tooltips say it in.

type Reason = () => string | null;

const { getState: document } = useDocument;
const { getState: selection } = useSelection;

/** Actions that need something, unless they say themselves what they need. */
export const needing = (reason: Reason, actions: readonly Action[]): Action[] =>
  actions.map((action) => ({ ...action, unavailable: action.unavailable ?? reason }));

/** The first thing that is in the way. */
export const all =
  (...reasons: Reason[]): Reason =>
  () => {
    for (const reason of reasons) {
      const text = reason();
      if (text) return text;
    }
    return null;
  };

export const clip: Reason = () => (document().clip ? null : 'Open a clip first.');
export const someTrack: Reason = () =>
  document().tracks.length > 0 ? null : 'Nothing is followed yet: place a point first.';
export const chosen: Reason = () => (selection().chosen.size > 0 ? null : 'Choose a track first.');
export const several: Reason = () =>
  selection().chosen.size > 1 ? null : 'Choose two tracks or more first.';
export const scene: Reason = () => (document().scene ? null : 'Find the camera’s motion first.');
export const motion: Reason = () => {
  const { result, steady } = document();
  return result && steady && isSteadied(result.motion, steady)
    ? null
    : 'Find the camera’s motion or follow a point first.';
};
export const span: Reason = () =>
  useView.getState().span ? null : 'Drag over a lane to choose frames first.';
export const idle: Reason = () =>
  runningJob('track')(document()) ? 'Wait until following has ended, or stop it.' : null;
export const running: Reason = () => (runningJob('track')(document()) ? null : 'Nothing is being followed.');

/** The selected track has a place on this frame. */
export const placeHere: Reason = () => {
  const { selected } = selection();
  const { frame } = usePlayhead.getState();
  return selected && document().samples.get(selected)?.found(frame)
    ? null
    : 'The selected track has no place on this frame.';
};

export const unlocked: Reason = () =>
  document().tracks.some(({ id, locked }) => locked && selection().chosen.has(id))
    ? 'A chosen track is locked; unlock it first.'
    : null;
