import { Anchor, Crosshair, Maximize, Spline } from 'lucide-react';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { changeSteady, hideBareEdges } from '../state/steadying';
import type { Action } from './action';
import * as reasons from './reasons';

const steady = () => useDocument.getState().steady;
const frame = (): number => usePlayhead.getState().frame;

function setRange(edge: 'first' | 'last'): void {
  const range = steady()?.range;
  if (!range) return;
  const next = { ...range, [edge]: frame() };
  if (next.first <= next.last) changeSteady({ range: next }, 'Range');
}

const channelNames = { x: 'x', y: 'y', rotation: 'rotation', scale: 'scale' } as const;

export const steadyActions = reasons.needing(reasons.clip, [
  {
    id: 'hold',
    group: 'Steady',
    label: 'Hold: take all motion out',
    icon: Anchor,
    wish: 'lock off tripod still',
    isOn: () => steady()?.mode === 'hold',
    run: () => changeSteady({ mode: 'hold' }, 'Mode'),
  },
  {
    id: 'smooth',
    group: 'Steady',
    label: 'Smooth: take the shake out, leave the move',
    icon: Spline,
    wish: 'pan handheld',
    isOn: () => steady()?.mode === 'smooth',
    run: () => changeSteady({ mode: 'smooth' }, 'Mode'),
  },
  {
    id: 'even',
    group: 'Steady',
    label: 'Smooth evenly',
    wish: 'gaussian',
    isOn: () => steady()?.kind === 'even',
    run: () => changeSteady({ mode: 'smooth', kind: 'even' }, 'Kind'),
  },
  {
    id: 'composed',
    group: 'Steady',
    label: 'Compose the path: stillness, steady moves, eases',
    wish: 'tripod dolly cinematic steadiest black edges',
    isOn: () => steady()?.kind === 'composed',
    run: () => changeSteady({ mode: 'smooth', kind: 'composed' }, 'Kind'),
  },
  ...(Object.keys(channelNames) as (keyof typeof channelNames)[]).map((channel): Action => ({
    id: `take-out-${channel}`,
    group: 'Steady',
    label: `Take out ${channelNames[channel]}`,
    wish: 'channel position rotation',
    isOn: () => steady()?.channels[channel] ?? false,
    run: () => {
      const channels = steady()?.channels;
      if (channels) changeSteady({ channels: { ...channels, [channel]: !channels[channel] } }, 'Channels');
    },
  })),
  {
    id: 'hide-edges',
    group: 'Steady',
    label: 'Hide bare edges',
    icon: Maximize,
    keys: ['e'],
    wish: 'black edges borders zoom crop fit',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => void hideBareEdges(),
  },
  {
    id: 'worst-edge',
    group: 'Steady',
    label: 'Go to the frame that forces the zoom',
    wish: 'black edges worst bare',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => {
      const { result } = useDocument.getState();
      const worst = result?.bare[0] ?? result?.fit?.forcedBy[0];
      if (worst) go(worst.frame);
    },
  },
  {
    id: 'reset-framing',
    group: 'Steady',
    label: 'Reset zoom and offset',
    wish: 'framing 100 %',
    run: () => changeSteady({ framing: { zoom: 1, offsetX: 0, offsetY: 0 } }, 'Framing'),
  },
  {
    id: 'reference',
    group: 'Steady',
    label: 'Take this frame as reference',
    icon: Crosshair,
    keys: ['r'],
    run: () => changeSteady({ referenceFrame: frame() }, 'Reference frame'),
  },
  {
    id: 'range-first',
    group: 'Steady',
    label: 'Range begins here',
    keys: ['i'],
    run: () => setRange('first'),
  },
  { id: 'range-last', group: 'Steady', label: 'Range ends here', keys: ['o'], run: () => setRange('last') },
  {
    id: 'range-all',
    group: 'Steady',
    label: 'Range is the whole clip',
    run: () => {
      const { clip } = useDocument.getState();
      if (clip) changeSteady({ range: { first: 0, last: clip.frames - 1 } }, 'Range');
    },
  },
]);
