import {
  AudioLines,
  Blinds,
  Columns2,
  Contrast,
  Crosshair,
  Eye,
  Hand,
  Layers2,
  Pin,
  LocateFixed,
  type LucideIcon,
  Maximize,
  Minus,
  Plus,
  RectangleHorizontal,
  Rows3,
  Scan,
  SquareSplitHorizontal,
  Table2,
  TriangleAlert,
} from 'lucide-react';
import { useTimeWindow, wholeClip, zoomTime } from '../state/time-window';
import { toggleRide } from '../state/track-edits';
import { takeTool, useView } from '../state/view';
import { useWorkspace, type LowerView } from '../state/workspace';
import { stageViews, wholePictures, type StageView, type Viewport } from '../stage/panes';
import { useDocument } from '../state/document';
import { holdPicture } from '../state/held';
import type { Action } from './action';
import * as reasons from './reasons';

const views: Record<StageView, { label: string; short: string; icon: LucideIcon }> = {
  twin: { label: 'Source and steadied', short: 'Both', icon: Columns2 },
  source: { label: 'Source alone', short: 'Source', icon: RectangleHorizontal },
  steadied: { label: 'Steadied alone', short: 'Steadied', icon: Scan },
  wipe: { label: 'Wipe', short: 'Wipe', icon: SquareSplitHorizontal },
  difference: { label: 'Difference', short: 'Difference', icon: Contrast },
  onion: { label: 'Onion skin: several frames at once', short: 'Onion skin', icon: Layers2 },
  held: { label: 'Work in the held picture', short: 'Held', icon: Pin },
};

/** Views whose buttons are icons alone. */
export const isRareView = (view: StageView): boolean => ['difference', 'onion', 'held'].includes(view);

export const shortViewName = (view: StageView): string => views[view].short;

const lower: { view: LowerView; label: string; icon: LucideIcon; key: string; wish: string }[] = [
  { view: 'lanes', label: 'Lanes', icon: Rows3, key: 'Shift+Digit1', wish: 'time' },
  { view: 'curves', label: 'Curves', icon: AudioLines, key: 'Shift+Digit2', wish: 'graph speed position' },
  { view: 'tracks', label: 'Table of tracks', icon: Table2, key: 'Shift+Digit3', wish: 'sort filter list' },
  {
    view: 'troubles',
    label: 'Trouble',
    icon: TriangleAlert,
    key: 'Shift+Digit4',
    wish: 'slipped drift wrong check',
  },
];

function magnify(factor: number): void {
  const zoomed = (v: Viewport): Viewport => ({ ...v, zoom: Math.min(Math.max(v.zoom * factor, 0.25), 40) });
  useView.setState(({ viewports: { source, steadied, held } }) => ({
    viewports: { source: zoomed(source), steadied: zoomed(steadied), held: zoomed(held) },
  }));
}

const zoomLanes = (factor: number): void =>
  useTimeWindow.setState((window) =>
    zoomTime(window, 0.5, factor, 10 / Math.max(10, useDocument.getState().clip?.frames ?? 10)),
  );

export const lookActions = reasons.needing(reasons.clip, [
  ...stageViews.map((view, i): Action => ({
    id: `view-${view}`,
    group: 'Look',
    label: views[view].label,
    icon: views[view].icon,
    keys: [`${i + 1}`],
    wish: view === 'held' ? 'still square flat rectify paint clean plate' : 'compare before after',
    isOn: () => useView.getState().view === view,
    run: () => (view === 'held' ? holdPicture() : useView.setState({ view })),
  })),
  {
    id: 'flicker',
    group: 'Look',
    label: 'Show what it is compared with in place of the steadied picture while the key is held',
    icon: Blinds,
    keys: ['c'],
    wish: 'compare flicker before after toggle blink',
    run: () => useView.setState({ flickers: true }),
  },
  {
    id: 'whole-picture',
    group: 'Look',
    label: 'Whole picture',
    icon: Maximize,
    keys: ['0'],
    wish: 'fit zoom out',
    run: () => useView.setState({ viewports: wholePictures }),
  },
  { id: 'magnify', group: 'Look', label: 'Zoom in', icon: Plus, keys: ['='], run: () => magnify(1.5) },
  { id: 'lessen', group: 'Look', label: 'Zoom out', icon: Minus, keys: ['-'], run: () => magnify(1 / 1.5) },
  {
    id: 'ride',
    group: 'Look',
    label: 'Ride on the track',
    icon: LocateFixed,
    keys: ['y'],
    wish: 'keep the point still on screen follow the view lock',
    unavailable: reasons.all(reasons.clip, reasons.chosen),
    isOn: () => useView.getState().ride !== null,
    run: toggleRide,
  },
  {
    id: 'as-seen',
    group: 'Look',
    label: 'Source as the track sees it',
    icon: Eye,
    wish: 'channel filter luma',
    unavailable: reasons.all(reasons.clip, reasons.chosen),
    isOn: () => useView.getState().asSeen,
    run: () => useView.setState(({ asSeen }) => ({ asSeen: !asSeen })),
  },
  {
    id: 'guide-line',
    group: 'Look',
    label: 'Guide line',
    icon: Minus,
    keys: ['g'],
    wish: 'judge steadiness ruler mark horizon',
    isOn: () => useView.getState().tool === 'line',
    run: () => takeTool('line'),
  },
  {
    id: 'guide-cross',
    group: 'Look',
    label: 'Guide cross',
    icon: Crosshair,
    keys: ['Shift+G'],
    wish: 'judge steadiness mark',
    isOn: () => useView.getState().tool === 'cross',
    run: () => takeTool('cross'),
  },
  {
    id: 'no-guides',
    group: 'Look',
    label: 'Remove all guide marks',
    unavailable: () => (useView.getState().guides.length > 0 ? null : 'There are no guide marks.'),
    run: () => useView.setState({ guides: [] }),
  },
  {
    id: 'move',
    group: 'Look',
    label: 'Move the pictures',
    icon: Hand,
    keys: ['v'],
    wish: 'pan hand tool',
    isOn: () => useView.getState().tool === 'move',
    run: () => useView.setState({ tool: 'move', draft: null }),
  },
  ...lower.map(({ view, label, icon, key, wish }): Action => ({
    id: `lower-${view}`,
    group: 'Look',
    label,
    icon,
    keys: [key],
    wish,
    isOn: () => useWorkspace.getState().lower === view,
    run: () => useWorkspace.setState({ lower: view }),
  })),
  {
    id: 'time-in',
    group: 'Look',
    label: 'Zoom into time',
    keys: ['Shift+Equal'],
    wish: 'lanes curves',
    run: () => zoomLanes(2),
  },
  {
    id: 'time-out',
    group: 'Look',
    label: 'Zoom out of time',
    keys: ['Shift+Minus'],
    run: () => zoomLanes(0.5),
  },
  {
    id: 'whole-clip',
    group: 'Look',
    label: 'Whole clip in the lanes',
    keys: ['Shift+Digit0'],
    run: () => useTimeWindow.setState(wholeClip),
  },
]);
