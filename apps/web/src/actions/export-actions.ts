import { ClipboardCopy, Download, Film, Image } from 'lucide-react';
import { isSteadied } from '@lurn/core';
import { useDocument } from '../state/document';
import { usePlayhead } from '../state/playhead';
import { startExport } from '../state/steadying';
import { copyTracks, saveFile, tracksAddress } from '../state/tracks-out';
import { useView } from '../state/view';
import type { Action } from './action';
import * as reasons from './reasons';

const clipId = (): string => useDocument.getState().clip?.id ?? '';
/** The frame as it is looked at: steadied, unless the source alone is shown. */
function shownFrame(format: 'png' | 'tiff'): string {
  const { steady, result } = useDocument.getState();
  const isSteady = result !== null && steady !== null && isSteadied(result.motion, steady);
  const steadied = isSteady && useView.getState().view !== 'source' ? '?steadied=true' : '';
  return `/api/clips/${clipId()}/frames/${usePlayhead.getState().frame}/still.${format}${steadied}`;
}

const some = reasons.all(reasons.clip, reasons.someTrack);

export const exportActions: Action[] = [
  {
    id: 'export',
    group: 'Export',
    label: 'Export movie',
    icon: Film,
    keys: ['$mod+e'],
    wish: 'render save mp4 video',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => void startExport(),
  },
  {
    id: 'tracks-csv',
    group: 'Export',
    label: 'Tracks as CSV',
    icon: Download,
    wish: 'save positions table',
    unavailable: some,
    run: () => saveFile(tracksAddress('csv')),
  },
  {
    id: 'tracks-json',
    group: 'Export',
    label: 'Tracks as JSON',
    icon: Download,
    unavailable: some,
    run: () => saveFile(tracksAddress('json')),
  },
  {
    id: 'tracks-copy',
    group: 'Export',
    label: 'Copy tracks to the clipboard',
    icon: ClipboardCopy,
    keys: ['$mod+Shift+C'],
    unavailable: some,
    run: () => void copyTracks(),
  },
  {
    id: 'motion-json',
    group: 'Export',
    label: 'Motion as JSON',
    icon: Download,
    wish: 'matrices placement',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => saveFile(`/api/clips/${clipId()}/motion.json`),
  },
  {
    id: 'motion-csv',
    group: 'Export',
    label: 'Motion as CSV: position, rotation, scale',
    icon: Download,
    wish: 'table rows frames',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => saveFile(`/api/clips/${clipId()}/motion.csv?of=pose`),
  },
  {
    id: 'motion-corners',
    group: 'Export',
    label: 'Motion as CSV: four corners',
    icon: Download,
    wish: 'table pin rows frames',
    unavailable: reasons.all(reasons.clip, reasons.motion),
    run: () => saveFile(`/api/clips/${clipId()}/motion.csv?of=corners`),
  },
  {
    id: 'motions-csv',
    group: 'Export',
    label: 'Motion of all tracks as CSV',
    icon: Download,
    wish: 'table rows frames position rotation scale',
    unavailable: some,
    run: () => saveFile(`/api/clips/${clipId()}/motion.csv?of=pose&by=track`),
  },
  {
    id: 'motions-corners',
    group: 'Export',
    label: 'Corners of all tracks as CSV',
    icon: Download,
    wish: 'table pin rows frames boxes',
    unavailable: some,
    run: () => saveFile(`/api/clips/${clipId()}/motion.csv?of=corners&by=track`),
  },
  {
    id: 'still',
    group: 'Export',
    label: 'The frame shown as PNG',
    icon: Image,
    wish: 'still picture save image',
    unavailable: reasons.clip,
    run: () => saveFile(shownFrame('png')),
  },
  {
    id: 'still-tiff',
    group: 'Export',
    label: 'The frame shown as TIFF',
    icon: Image,
    wish: 'still picture save image',
    unavailable: reasons.clip,
    run: () => saveFile(shownFrame('tiff')),
  },
];
