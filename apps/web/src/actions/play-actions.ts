import {
  ChevronFirst,
  ChevronLast,
  ChevronLeft,
  ChevronRight,
  Play,
  Repeat,
  Turtle,
  Volume2,
} from 'lucide-react';
import { go, togglePlay } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { playbackRates, playbackSizes, usePreferences, type Preferences } from '../state/preferences';
import type { Action } from './action';
import * as reasons from './reasons';

const frame = (): number => usePlayhead.getState().frame;
const preferences = usePreferences.getState;
const prefer = (part: Partial<Preferences>): void => void usePreferences.setState(part);
const spoken = { 1: 'full', 0.5: 'half', 0.25: 'quarter' };

export const playActions = reasons.needing(reasons.clip, [
  { id: 'play', group: 'Play', label: 'Play and pause', icon: Play, keys: ['Space'], run: togglePlay },
  {
    id: 'frame-back',
    group: 'Play',
    label: 'One frame back',
    icon: ChevronLeft,
    keys: ['ArrowLeft', 'PageUp'],
    run: () => go(frame() - 1),
  },
  {
    id: 'frame-on',
    group: 'Play',
    label: 'One frame on',
    icon: ChevronRight,
    keys: ['ArrowRight', 'PageDown'],
    run: () => go(frame() + 1),
  },
  {
    id: 'ten-back',
    group: 'Play',
    label: 'Ten frames back',
    keys: ['Shift+ArrowLeft'],
    run: () => go(frame() - 10),
  },
  {
    id: 'ten-on',
    group: 'Play',
    label: 'Ten frames on',
    keys: ['Shift+ArrowRight'],
    run: () => go(frame() + 10),
  },
  {
    id: 'first-frame',
    group: 'Play',
    label: 'First frame',
    icon: ChevronFirst,
    keys: ['Home'],
    run: () => go(0),
  },
  {
    id: 'last-frame',
    group: 'Play',
    label: 'Last frame',
    icon: ChevronLast,
    keys: ['End'],
    run: () => go(Infinity),
  },
  {
    id: 'loop',
    group: 'Play',
    label: 'Play in a loop',
    icon: Repeat,
    keys: ['Shift+L'],
    wish: 'repeat again once',
    isOn: () => preferences().loop,
    run: () => prefer({ loop: !preferences().loop }),
  },
  {
    id: 'sound',
    group: 'Play',
    label: 'Sound',
    icon: Volume2,
    keys: ['Shift+M'],
    wish: 'mute hear audio silent',
    isOn: () => !preferences().muted,
    run: () => prefer({ muted: !preferences().muted }),
  },
  ...playbackRates.map((rate): Action => ({
    id: `rate-${rate}`,
    group: 'Play',
    label:
      rate === 1 ? "Play at the clip's rate" : `Play at ${rate === 0.5 ? 'half' : 'a quarter of'} the rate`,
    icon: Turtle,
    wish: 'slow motion speed',
    isOn: () => preferences().playbackRate === rate,
    run: () => prefer({ playbackRate: rate }),
  })),
  ...playbackSizes.map((size): Action => ({
    id: `size-${size}`,
    group: 'Play',
    label: `Play at ${spoken[size]} size`,
    wish: 'smooth resolution quality stutter',
    isOn: () => preferences().playbackSize === size,
    run: () => prefer({ playbackSize: size }),
  })),
]);
