import {
  ArrowLeft,
  ArrowLeftRight,
  ArrowRight,
  CircleOff,
  Crosshair,
  Move,
  ScanSearch,
  Sparkles,
  Spline,
  Square,
  StepBack,
  StepForward,
  type LucideIcon,
} from 'lucide-react';
import { runningJob, useDocument } from '../state/document';
import { cancelJob } from '../state/editor';
import { findAndFollow, follow, suggest, type FollowDirection } from '../state/track-edits';
import { takeTool, useView } from '../state/view';
import { SplineTool } from '../stage/tools/spline-tool';
import type { Action } from './action';
import * as reasons from './reasons';

const directions: { id: string; direction: FollowDirection; label: string; key: string; icon: LucideIcon }[] =
  [
    { id: 'follow-on', direction: 'forwards', label: 'Follow forwards', key: ']', icon: ArrowRight },
    { id: 'follow-back', direction: 'backwards', label: 'Follow backwards', key: '[', icon: ArrowLeft },
    { id: 'follow-both', direction: 'both', label: 'Follow both ways', key: '\\', icon: ArrowLeftRight },
    {
      id: 'follow-one-on',
      direction: 'next',
      label: 'Follow one frame on',
      key: 'Shift+BracketRight',
      icon: StepForward,
    },
    {
      id: 'follow-one-back',
      direction: 'previous',
      label: 'Follow one frame back',
      key: 'Shift+BracketLeft',
      icon: StepBack,
    },
  ];

export const followActions = reasons.needing(reasons.clip, [
  {
    id: 'find-and-follow',
    group: 'Follow',
    label: 'Find points and follow them',
    icon: Sparkles,
    keys: ['Shift+F'],
    wish: 'track automatically start shaky stabilise',
    unavailable: reasons.all(reasons.clip, reasons.idle),
    run: () => void findAndFollow(),
  },
  {
    id: 'place',
    group: 'Follow',
    label: 'Place a point',
    icon: Crosshair,
    keys: ['p'],
    wish: 'add track new box',
    isOn: () => useView.getState().tool === 'place',
    run: () => takeTool('place'),
  },
  {
    id: 'suggest',
    group: 'Follow',
    label: 'Suggest six points',
    icon: ScanSearch,
    wish: 'find features best places',
    run: () => void suggest(6),
  },
  {
    id: 'look-in',
    group: 'Follow',
    label: 'Look in… (draw an area)',
    icon: Spline,
    wish: 'area spline mask suggestions within',
    isOn: () => useView.getState().tool === 'within',
    run: () => takeTool('within'),
  },
  {
    id: 'keep-out',
    group: 'Follow',
    label: 'Keep out of… (draw an area)',
    icon: CircleOff,
    wish: 'area spline mask hold out without',
    isOn: () => useView.getState().tool === 'without',
    run: () => takeTool('without'),
  },
  {
    id: 'close-area',
    group: 'Follow',
    label: 'Close the area that is being drawn',
    unavailable: () => ((useView.getState().draft?.knots.length ?? 0) > 2 ? null : 'No area is being drawn.'),
    run: () => void SplineTool.finish(),
  },
  {
    id: 'clear-areas',
    group: 'Follow',
    label: 'Clear the areas',
    unavailable: () => (useView.getState().areas.length > 0 ? null : 'No area is drawn.'),
    run: () => useView.setState({ areas: [], editedArea: null }),
  },
  ...directions.map(({ id, direction, label, key, icon }): Action => ({
    id,
    group: 'Follow',
    label,
    icon,
    keys: [key],
    wish: 'track',
    unavailable: reasons.all(reasons.clip, reasons.someTrack, reasons.chosen, reasons.idle),
    run: () => void follow(direction),
  })),
  {
    id: 'stop-following',
    group: 'Follow',
    label: 'Stop following',
    icon: Square,
    wish: 'cancel',
    unavailable: reasons.running,
    run: () => {
      const job = runningJob('track')(useDocument.getState());
      if (job) void cancelJob(job.id);
    },
  },
  {
    id: 'aside',
    group: 'Follow',
    label: 'Go on with another feature',
    icon: Move,
    wish: 'covered leaves picture offset',
    unavailable: reasons.all(reasons.clip, reasons.chosen),
    isOn: () => useView.getState().tool === 'aside',
    run: () => takeTool('aside'),
  },
]);
