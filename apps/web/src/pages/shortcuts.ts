import { useEffect } from 'react';
import { tinykeys } from 'tinykeys';
import { useDocument, runningJob } from '../state/document';
import { cancelJob, go, togglePlay } from '../state/editor';
import { changeSteady, hideBareEdges, redo, undo } from '../state/steadying';
import { takeTool, useView } from '../state/view';
import {
  chooseAll,
  chooseNext,
  chooseTrack,
  clearSpan,
  follow,
  goToKey,
  goToTrouble,
  keyHere,
} from '../state/track-edits';
import { usePlayhead } from '../state/playhead';
import { stageViews, wholePicture } from '../stage/panes';
import { modifier } from '../ui/modifier';
import { useSelection } from '../state/selection';

interface Shortcut {
  /** As tinykeys reads it. */
  keys: string;
  /** As people read it. */
  shown: string;
  does: string;
  run: () => void;
}

const frame = (): number => usePlayhead.getState().frame;

function setRange(edge: 'first' | 'last'): void {
  const range = useDocument.getState().steady?.range;
  if (!range) return;
  const next = { ...range, [edge]: frame() };
  if (next.first <= next.last) changeSteady({ range: next }, 'Range');
}

function escape(): void {
  const job = runningJob('track')(useDocument.getState());
  const { selected } = useSelection.getState();
  if (useView.getState().tool !== 'move') useView.setState({ tool: 'move' });
  else if (job) void cancelJob(job.id);
  else if (selected) chooseTrack(selected);
}

export const shortcuts: Shortcut[] = [
  { keys: 'Space', shown: 'Space', does: 'Play and pause', run: togglePlay },
  { keys: 'ArrowLeft', shown: '←', does: 'One frame back', run: () => go(frame() - 1) },
  { keys: 'ArrowRight', shown: '→', does: 'One frame on', run: () => go(frame() + 1) },
  { keys: 'Shift+ArrowLeft', shown: 'Shift ←', does: 'Ten frames back', run: () => go(frame() - 10) },
  { keys: 'Shift+ArrowRight', shown: 'Shift →', does: 'Ten frames on', run: () => go(frame() + 10) },
  { keys: 'Home', shown: 'Home', does: 'First frame', run: () => go(0) },
  { keys: 'End', shown: 'End', does: 'Last frame', run: () => go(Infinity) },
  { keys: 'i', shown: 'I', does: 'Range begins here', run: () => setRange('first') },
  { keys: 'o', shown: 'O', does: 'Range ends here', run: () => setRange('last') },
  {
    keys: 'p',
    shown: 'P',
    does: 'Place a point',
    run: () => takeTool('place'),
  },
  { keys: 'n', shown: 'N', does: 'Next track', run: () => chooseNext('alone') },
  { keys: 'Shift+N', shown: 'Shift N', does: 'Next track as well', run: () => chooseNext('besides') },
  { keys: '$mod+a', shown: `${modifier} A`, does: 'All tracks', run: chooseAll },
  { keys: '.', shown: '.', does: 'Next trouble of the chosen', run: () => goToTrouble(1) },
  { keys: ',', shown: ',', does: 'Trouble before', run: () => goToTrouble(-1) },
  { keys: 'k', shown: 'K', does: 'Key here, as it stands', run: () => keyHere() },
  { keys: 'Shift+Period', shown: 'Shift .', does: 'Next key of the chosen', run: () => goToKey(1) },
  { keys: 'Shift+Comma', shown: 'Shift ,', does: 'Key before', run: () => goToKey(-1) },
  { keys: ']', shown: ']', does: 'Follow forwards', run: () => void follow('forwards') },
  { keys: '[', shown: '[', does: 'Follow backwards', run: () => void follow('backwards') },
  { keys: '\\', shown: '\\', does: 'Follow both ways', run: () => void follow('both') },
  {
    keys: 'Shift+BracketRight',
    shown: 'Shift ]',
    does: 'Follow one frame on',
    run: () => void follow('next'),
  },
  {
    keys: 'Shift+BracketLeft',
    shown: 'Shift [',
    does: 'Follow one frame back',
    run: () => void follow('previous'),
  },
  {
    keys: 'Alt+ArrowLeft',
    shown: 'Alt ←↑↓→',
    does: 'Nudge the box by a quarter pixel',
    run: () => keyHere(-0.25, 0),
  },
  { keys: 'Alt+ArrowRight', shown: '', does: '', run: () => keyHere(0.25, 0) },
  { keys: 'Alt+ArrowUp', shown: '', does: '', run: () => keyHere(0, -0.25) },
  { keys: 'Alt+ArrowDown', shown: '', does: '', run: () => keyHere(0, 0.25) },
  {
    keys: 'Delete',
    shown: 'Delete',
    does: 'Remove the sample on this frame',
    run: () => void clearSpan(frame(), frame()),
  },
  {
    keys: 'r',
    shown: 'R',
    does: 'Take this frame as reference',
    run: () => changeSteady({ referenceFrame: frame() }, 'Reference frame'),
  },
  { keys: 'e', shown: 'E', does: 'Hide bare edges', run: () => void hideBareEdges() },
  ...stageViews.map((view, i) => ({
    keys: `${i + 1}`,
    shown: `${i + 1}`,
    does: ['Source and steadied', 'Source alone', 'Steadied alone', 'Wipe'][i],
    run: () => useView.setState({ view }),
  })),
  { keys: '0', shown: '0', does: 'Whole picture', run: () => useView.setState({ viewport: wholePicture }) },
  { keys: '$mod+z', shown: `${modifier} Z`, does: 'Undo', run: () => void undo() },
  { keys: '$mod+Shift+Z', shown: `${modifier} Shift Z`, does: 'Redo', run: () => void redo() },
  { keys: 'Escape', shown: 'Esc', does: 'Put the tool down, stop following, choose one alone', run: escape },
];

/** Listens for the editor's keys, except while someone types or a dialogue is open. */
export function useShortcuts(): void {
  useEffect(() => {
    const bindings = shortcuts.map(({ keys, run }): [string, (event: KeyboardEvent) => void] => [
      keys,
      (event) => {
        const target = event.target as HTMLElement;
        const typing =
          target.matches('input:not([type=range]), textarea, select') ||
          document.querySelector('dialog[open]');
        const pressing = event.key === ' ' && target.matches('button, a');
        const sliding = event.key.startsWith('Arrow') && !event.altKey && target.matches('input[type=range]');
        if (typing || pressing || sliding) return;
        event.preventDefault();
        run();
      },
    ]);
    // What the mouse has pressed gives the keys back, so that Space plays and arrows step again.
    const letGo = (event: MouseEvent): void => {
      const pressed = document.activeElement;
      if (event.detail > 0 && pressed?.matches('button, input[type=range]') && !pressed.closest('dialog'))
        (pressed as HTMLElement).blur();
    };
    document.addEventListener('click', letGo);
    const stop = tinykeys(window, Object.fromEntries(bindings));
    return () => {
      document.removeEventListener('click', letGo);
      stop();
    };
  }, []);
}
