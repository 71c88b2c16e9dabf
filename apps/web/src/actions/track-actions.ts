import {
  ClipboardPaste,
  CopyPlus,
  Eye,
  EyeOff,
  Lock,
  LockOpen,
  Merge,
  Redo2,
  Trash2,
  Undo2,
  Waypoints,
} from 'lucide-react';
import { useDocument } from '../state/document';
import { useSelection } from '../state/selection';
import { redo, undo } from '../state/steadying';
import { useSync } from '../state/sync';
import {
  carryMotion,
  changeTracks,
  chooseAll,
  chooseNext,
  deleteTracks,
  duplicateTracks,
  joinTracks,
} from '../state/track-edits';
import { openDialog } from '../state/workspace';
import type { Action } from './action';
import * as reasons from './reasons';

const ids = (): string[] => [...useSelection.getState().chosen];
const every = (part: 'used' | 'hidden' | 'locked'): boolean =>
  useDocument
    .getState()
    .tracks.filter(({ id }) => useSelection.getState().chosen.has(id))
    .every((track) => track[part]);
/** An edit that has not arrived yet can be taken back, too. */
const isOnItsWay = (): boolean => useSync.getState().saving > 0 || useSync.getState().unsaved;
const ready = reasons.all(reasons.clip, reasons.someTrack, reasons.chosen);

export const trackActions: Action[] = [
  {
    id: 'undo',
    group: 'Tracks',
    label: 'Undo',
    icon: Undo2,
    keys: ['$mod+z'],
    wish: 'take back',
    unavailable: reasons.all(reasons.clip, () =>
      useDocument.getState().history.undo || isOnItsWay() ? null : 'There is nothing to undo.',
    ),
    run: () => void undo(),
  },
  {
    id: 'redo',
    group: 'Tracks',
    label: 'Redo',
    icon: Redo2,
    keys: ['$mod+Shift+Z'],
    unavailable: reasons.all(reasons.clip, () =>
      useDocument.getState().history.redo ? null : 'There is nothing to redo.',
    ),
    run: () => void redo(),
  },
  {
    id: 'next-track',
    group: 'Tracks',
    label: 'Next track',
    keys: ['n'],
    unavailable: reasons.all(reasons.clip, reasons.someTrack),
    run: () => chooseNext('alone'),
  },
  {
    id: 'next-track-too',
    group: 'Tracks',
    label: 'Next track as well',
    keys: ['Shift+N'],
    unavailable: reasons.all(reasons.clip, reasons.someTrack),
    run: () => chooseNext('besides'),
  },
  {
    id: 'all-tracks',
    group: 'Tracks',
    label: 'All tracks',
    keys: ['$mod+a'],
    wish: 'select choose everything',
    unavailable: reasons.all(reasons.clip, reasons.someTrack),
    run: chooseAll,
  },
  {
    id: 'duplicate',
    group: 'Tracks',
    label: 'Duplicate',
    icon: CopyPlus,
    keys: ['$mod+d'],
    wish: 'copy track',
    unavailable: ready,
    run: () => void duplicateTracks(),
  },
  {
    id: 'join',
    group: 'Tracks',
    label: 'Join into the selected track',
    icon: Merge,
    keys: ['j'],
    wish: 'merge pieces lost and found again',
    unavailable: reasons.all(ready, reasons.several, reasons.unlocked),
    run: () => void joinTracks(),
  },
  {
    id: 'carry',
    group: 'Tracks',
    label: "Give the selected track's motion to the others",
    icon: Waypoints,
    wish: 'copy motion start parent',
    unavailable: reasons.all(ready, reasons.several, reasons.unlocked),
    run: () => void carryMotion(),
  },
  {
    id: 'use',
    group: 'Tracks',
    label: 'Has a say in the motion',
    keys: ['u'],
    wish: 'used leave out',
    unavailable: ready,
    isOn: () => every('used'),
    run: () => void changeTracks(ids(), { used: !every('used') }),
  },
  {
    id: 'hide',
    group: 'Tracks',
    label: 'Hidden on the stage',
    icon: EyeOff,
    keys: ['h'],
    wish: 'show visible',
    unavailable: ready,
    isOn: () => every('hidden'),
    run: () => void changeTracks(ids(), { hidden: !every('hidden') }),
  },
  {
    id: 'show-all',
    group: 'Tracks',
    label: 'Show all tracks',
    icon: Eye,
    unavailable: reasons.all(reasons.clip, () =>
      useDocument.getState().tracks.some(({ hidden }) => hidden) ? null : 'No track is hidden.',
    ),
    run: () =>
      void changeTracks(
        useDocument.getState().tracks.map(({ id }) => id),
        { hidden: false },
      ),
  },
  {
    id: 'lock',
    group: 'Tracks',
    label: 'Locked',
    icon: Lock,
    keys: ['l'],
    wish: 'protect unlock',
    unavailable: ready,
    isOn: () => every('locked'),
    run: () => void changeTracks(ids(), { locked: !every('locked') }),
  },
  {
    id: 'unlock-all',
    group: 'Tracks',
    label: 'Unlock all tracks',
    icon: LockOpen,
    unavailable: reasons.all(reasons.clip, () =>
      useDocument.getState().tracks.some(({ locked }) => locked) ? null : 'No track is locked.',
    ),
    run: () =>
      void changeTracks(
        useDocument.getState().tracks.map(({ id }) => id),
        { locked: false },
      ),
  },
  {
    id: 'delete',
    group: 'Tracks',
    label: 'Delete the chosen tracks',
    icon: Trash2,
    keys: ['$mod+Backspace'],
    wish: 'remove',
    unavailable: ready,
    run: () => void deleteTracks(ids()),
  },
  {
    id: 'import',
    group: 'Tracks',
    label: 'Take tracks in…',
    icon: ClipboardPaste,
    wish: 'import paste csv json file',
    unavailable: reasons.clip,
    run: () => openDialog('import'),
  },
];
