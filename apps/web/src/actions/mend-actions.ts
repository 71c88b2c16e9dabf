import {
  ArrowDownToLine,
  Check,
  ChevronDown,
  ChevronUp,
  CornerDownRight,
  Diamond,
  Eraser,
  Keyboard,
  ListChecks,
  RefreshCw,
  Waves,
} from 'lucide-react';
import { SampleState } from '@lurn/core';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { useSelection } from '../state/selection';
import {
  clearSpan,
  fillBetweenKeys,
  followSpan,
  goToKey,
  goToTrouble,
  keyAndGo,
  keyHere,
  moveKey,
  smoothSpan,
} from '../state/track-edits';
import { stepTroubles, useTroubles, waveThrough } from '../state/trouble-list';
import { takeTool, useView } from '../state/view';
import { useWorkspace } from '../state/workspace';
import type { Action } from './action';
import * as reasons from './reasons';

const frame = (): number => usePlayhead.getState().frame;
const frames = (): number => useDocument.getState().clip?.frames ?? 0;
const span = () => useView.getState().span;
const ready = reasons.all(reasons.clip, reasons.someTrack, reasons.chosen, reasons.unlocked);
const readySpan = reasons.all(ready, reasons.span);
const here = reasons.all(ready, reasons.placeHere);
/** Frames. */
const usualSmoothing = 3;

function showTroubles(step: 1 | -1): void {
  useWorkspace.setState({ lower: 'troubles' });
  stepTroubles(step);
}

/** One end of the span comes to this frame; the other stays where it can. */
function setSpan(edge: 'first' | 'last'): void {
  const here = frame();
  const { first, last } = span() ?? { first: here, last: here };
  useView.setState({
    span:
      edge === 'first'
        ? { first: here, last: Math.max(last, here) }
        : { first: Math.min(first, here), last: here },
  });
}

const keyHereOnly = (): string | null => {
  const { selected } = useSelection.getState();
  const state = selected ? useDocument.getState().samples.get(selected)?.state(frame()) : undefined;
  return state === SampleState.placed ? null : 'The selected track has no key on this frame.';
};

const nudges: [key: string, dx: number, dy: number][] = [
  ['ArrowLeft', -1, 0],
  ['ArrowRight', 1, 0],
  ['ArrowUp', 0, -1],
  ['ArrowDown', 0, 1],
];

export const mendActions: Action[] = [
  {
    id: 'next-trouble',
    group: 'Mend',
    label: 'Next in the trouble list',
    icon: ChevronDown,
    keys: ['t'],
    wish: 'worst slipped drifted bad frame',
    unavailable: reasons.all(reasons.clip, reasons.someTrack),
    run: () => showTroubles(1),
  },
  {
    id: 'last-trouble',
    group: 'Mend',
    label: 'Before in the trouble list',
    icon: ChevronUp,
    keys: ['Shift+T'],
    unavailable: reasons.all(reasons.clip, reasons.someTrack),
    run: () => showTroubles(-1),
  },
  {
    id: 'wave-through',
    group: 'Mend',
    label: 'Right as it is: wave through',
    icon: Check,
    keys: ['w'],
    wish: 'accept ignore trouble fine',
    unavailable: () => (useTroubles.getState().at ? null : 'Go to a trouble in the list first.'),
    run: () => {
      const { at } = useTroubles.getState();
      if (at) void waveThrough(at);
    },
  },
  {
    id: 'trouble-on',
    group: 'Mend',
    label: 'Next trouble of the chosen, in time',
    keys: ['.'],
    unavailable: ready,
    run: () => goToTrouble(1),
  },
  {
    id: 'trouble-back',
    group: 'Mend',
    label: 'Trouble before, in time',
    keys: [','],
    unavailable: ready,
    run: () => goToTrouble(-1),
  },
  {
    id: 'hand',
    group: 'Mend',
    label: 'Mend by hand: arrow keys move the box',
    icon: Keyboard,
    keys: ['m'],
    wish: 'frame by frame nudge correct',
    unavailable: ready,
    isOn: () => useView.getState().tool === 'hand',
    run: () => takeTool('hand'),
  },
  {
    id: 'key-and-on',
    group: 'Mend',
    label: 'Place here and go on a frame',
    icon: CornerDownRight,
    keys: ['Enter'],
    wish: 'next frame by hand',
    unavailable: here,
    run: () => keyAndGo(1),
  },
  {
    id: 'key-and-back',
    group: 'Mend',
    label: 'Place here and go back a frame',
    keys: ['Shift+Enter'],
    unavailable: here,
    run: () => keyAndGo(-1),
  },
  {
    id: 'key',
    group: 'Mend',
    label: 'Key here, as it stands',
    icon: Diamond,
    keys: ['k'],
    wish: 'keyframe sample',
    unavailable: here,
    run: () => keyHere(),
  },
  {
    id: 'next-key',
    group: 'Mend',
    label: 'Next key of the chosen',
    keys: ['Shift+Period'],
    unavailable: ready,
    run: () => goToKey(1),
  },
  {
    id: 'last-key',
    group: 'Mend',
    label: 'Key before',
    keys: ['Shift+Comma'],
    unavailable: ready,
    run: () => goToKey(-1),
  },
  ...nudges.map(([key, dx, dy], i): Action => ({
    id: `nudge-${key}`,
    group: 'Mend',
    label:
      i === 0
        ? 'Nudge the box by a tenth of a pixel'
        : `Nudge the box ${key.slice(5).toLowerCase()} by a tenth`,
    keys: [`Alt+${key}`],
    quiet: i > 0,
    unavailable: here,
    run: () => keyHere(dx / 10, dy / 10),
  })),
  {
    id: 'follow-span',
    group: 'Mend',
    label: 'Follow only this span anew',
    icon: RefreshCw,
    keys: ['Shift+R'],
    wish: 'refollow track again part',
    unavailable: reasons.all(readySpan, reasons.idle),
    run: () => {
      const own = span();
      if (own) void followSpan(own);
    },
  },
  {
    id: 'clear-here',
    group: 'Mend',
    label: 'Remove the sample on this frame',
    icon: Eraser,
    keys: ['Delete'],
    unavailable: ready,
    run: () => void clearSpan(frame(), frame()),
  },
  {
    id: 'clear-before',
    group: 'Mend',
    label: 'Remove all samples before this frame',
    unavailable: ready,
    run: () => void clearSpan(0, frame() - 1),
  },
  {
    id: 'clear-after',
    group: 'Mend',
    label: 'Remove all samples after this frame',
    unavailable: ready,
    run: () => void clearSpan(frame() + 1, frames() - 1),
  },
  {
    id: 'clear-span',
    group: 'Mend',
    label: 'Remove the samples of the span',
    keys: ['Shift+Delete'],
    unavailable: readySpan,
    run: () => {
      const own = span();
      if (own) void clearSpan(own.first, own.last);
    },
  },
  {
    id: 'smooth-span',
    group: 'Mend',
    label: 'Smooth the path in the span',
    icon: Waves,
    wish: 'tremble jitter samples',
    unavailable: readySpan,
    run: () => {
      const own = span();
      if (own) void smoothSpan(own, usualSmoothing);
    },
  },
  {
    id: 'fill-linear',
    group: 'Mend',
    label: 'Fill between keys, straight',
    icon: ArrowDownToLine,
    wish: 'interpolate gap',
    unavailable: ready,
    run: () => void fillBetweenKeys('linear'),
  },
  {
    id: 'fill-smooth',
    group: 'Mend',
    label: 'Fill between keys, smoothly',
    wish: 'interpolate gap spline',
    unavailable: ready,
    run: () => void fillBetweenKeys('smooth'),
  },
  {
    id: 'span-first',
    group: 'Mend',
    label: 'Span begins here',
    keys: ['Shift+I'],
    unavailable: reasons.clip,
    run: () => setSpan('first'),
  },
  {
    id: 'span-last',
    group: 'Mend',
    label: 'Span ends here',
    keys: ['Shift+O'],
    unavailable: reasons.clip,
    run: () => setSpan('last'),
  },
  ...([1, -1] as const).map((by): Action => ({
    id: `key-moves-${by}`,
    group: 'Mend',
    label: by > 0 ? 'Move this key a frame on' : 'Move this key a frame back',
    wish: 'along the lane later earlier',
    unavailable: reasons.all(ready, keyHereOnly),
    run: () => {
      const { selected } = useSelection.getState();
      const [from, to] = [frame(), frame() + by];
      if (selected && to >= 0 && to < frames()) void moveKey(selected, from, to).then(() => go(to));
    },
  })),
  {
    id: 'span-is-range',
    group: 'Mend',
    label: 'Choose the range as span',
    icon: ListChecks,
    unavailable: reasons.clip,
    run: () => useView.setState({ span: useDocument.getState().steady?.range ?? null }),
  },
];
