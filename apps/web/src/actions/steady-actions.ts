import { usualRestlessness } from '@lurn/core';
import { Anchor, Crosshair, Hand, Maximize, Move, RectangleHorizontal, Spline } from 'lucide-react';
import { addStretch, handKeyOn, places, putHeldAt, removeHandKeys } from '../state/by-hand';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { keepFraming } from '../state/framing';
import { usePlayhead } from '../state/playhead';
import { changeSteady, hideBareEdges } from '../state/steadying';
import { takeTool, useView } from '../state/view';
import { wanderAnywhere, wanderInMiddle } from '../state/wander';
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

const stretches = [
  { kind: 'hold', label: 'Hold the chosen frames', wish: 'span lock still part keyed' },
  { kind: 'protect', label: 'Leave the chosen frames as they are', wish: 'span protect intended move pan' },
  { kind: 'even', label: 'Go through the chosen frames at one pace', wish: 'span even out move pan smooth' },
] as const;

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
    id: 'slide',
    group: 'Steady',
    label: 'Slide the steadied picture',
    icon: Move,
    wish: 'framing offset pan favour another part',
    isOn: () => useView.getState().tool === 'slide',
    run: () => takeTool('slide'),
  },
  {
    id: 'keep-framing',
    group: 'Steady',
    label: 'Frame all as this frame is',
    wish: 'framing favour another part of the scene keep offset',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: keepFraming,
  },
  {
    id: 'vary-zoom',
    group: 'Steady',
    label: 'Let the zoom vary',
    wish: 'dynamic adaptive zoom breathing edges',
    isOn: () => !!steady()?.varying,
    run: () =>
      changeSteady(
        { varying: steady()?.varying ? undefined : { restlessness: usualRestlessness } },
        'Varying zoom',
      ),
  },
  {
    id: 'hatch-edges',
    group: 'Look',
    label: 'Hatch bare edges',
    wish: 'black borders show preview',
    isOn: () => useView.getState().hatched,
    run: () => useView.setState(({ hatched }) => ({ hatched: !hatched })),
  },
  {
    id: 'put',
    group: 'Steady',
    label: 'Drag the steadied picture',
    icon: Hand,
    keys: ['b'],
    wish: 'by hand key position place manual',
    isOn: () => useView.getState().tool === 'put',
    run: () => takeTool('put'),
  },
  ...(Object.keys(places) as (keyof typeof places)[]).map((place): Action => ({
    id: `put-${place}`,
    group: 'Steady',
    label: `Put what is held: ${places[place].name.toLowerCase()}`,
    wish: 'centre subject third lock',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => putHeldAt(place),
  })),
  {
    id: 'wander',
    group: 'Steady',
    label: 'Draw the area to wander in',
    icon: RectangleHorizontal,
    wish: 'hold loosely subject inside frame rectangle area output',
    isOn: () => useView.getState().tool === 'wander',
    run: () => takeTool('wander'),
  },
  {
    id: 'wander-middle',
    group: 'Steady',
    label: 'Let what is followed wander in the middle third',
    wish: 'hold loosely subject area',
    run: wanderInMiddle,
  },
  {
    id: 'wander-anywhere',
    group: 'Steady',
    label: 'Let what is followed wander anywhere',
    wish: 'hold loosely subject area remove',
    unavailable: () => (steady()?.within ? null : 'No area is drawn.'),
    run: wanderAnywhere,
  },
  {
    id: 'hand-key-remove',
    group: 'Steady',
    label: 'Remove the key by hand on this frame',
    unavailable: () =>
      handKeyOn(usePlayhead.getState().frame) ? null : 'Nothing is put by hand on this frame.',
    run: () => removeHandKeys('here'),
  },
  {
    id: 'hand-keys-clear',
    group: 'Steady',
    label: 'Remove all keys by hand',
    unavailable: () => ((steady()?.keys.length ?? 0) > 0 ? null : 'Nothing is put by hand.'),
    run: () => removeHandKeys('all'),
  },
  ...stretches.map(({ kind, label, wish }): Action => ({
    id: `stretch-${kind}`,
    group: 'Steady',
    label,
    wish,
    unavailable: reasons.all(reasons.clip, reasons.span),
    run: () => {
      const { span } = useView.getState();
      if (span) addStretch(kind, span);
    },
  })),
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
