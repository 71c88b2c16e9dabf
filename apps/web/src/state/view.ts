import type { ClosedSpline, Point, SplineKnot } from '@lurn/core';
import { create } from 'zustand';
import { wholePictures, type PaneKind, type StageView, type Viewport } from '../stage/panes';

/**
 * What is in the hand. `aside` puts the box on another feature; `within` and `without` draw areas for suggestions; `line`
 * and `cross` set guide marks; `outline` and `cutout` draw what
 * is seen of the selected layer, `pipette` takes a colour for its key, `brush` paints; `region` draws a flat area to follow, `hold-out` what never counts of it; `hand` has the arrow keys move the box, frame by frame; `put` drags the steadied picture.
 */
export const tools = [
  'move',
  'place',
  'aside',
  'within',
  'without',
  'line',
  'cross',
  'hand',
  'put',
  'wander',
  'slide',
  'outline',
  'cutout',
  'pipette',
  'brush',
  'region',
  'hold-out',
] as const;
export type Tool = (typeof tools)[number];

/** A part of the picture to look in or to keep out of, clip pixels. */
export interface Area {
  kind: 'within' | 'without';
  spline: ClosedSpline;
}

/** A mark to judge steadiness by: a line from one point to the other, or a cross; pixels of its pane's picture. */
export interface Guide {
  id: string;
  pane: PaneKind;
  from: Point;
  /** Null for a cross. */
  to: Point | null;
}

/** Frames that something is to be done to, both included. */
export interface Span {
  first: number;
  last: number;
}

/** How one looks at the clip, and with what in the hand; nothing of it is stored on the server. */
export interface View {
  tool: Tool;
  /** The source is shown in place of the steadied picture, as long as a key is held. */
  flickers: boolean;
  /** Whether bare edges are hatched, where they would be black. */
  hatched: boolean;
  /** Areas drawn for suggestions, and the one that is being edited. */
  areas: Area[];
  editedArea: number | null;
  /** Knots of a spline that is being drawn, and where the pointer would set the next. */
  draft: { knots: SplineKnot[]; next: Point | null } | null;
  guides: Guide[];
  /** The source is shown as the selected track sees it. */
  asSeen: boolean;
  view: StageView;
  viewports: Record<PaneKind, Viewport>;
  /** Frames from one onion skin to the next. */
  onionGap: number;
  /** The share of the stage's width left to what is compared with. */
  wipe: number;
  /** The track whose point stands still on the screen, and the frame on which riding began. */
  ride: { trackId: string; from: number } | null;
  span: Span | null;
}

/** As a clip is first looked at. */
export const firstView: Omit<View, 'asSeen'> = {
  tool: 'move',
  flickers: false,
  hatched: true,
  areas: [],
  editedArea: null,
  draft: null,
  guides: [],
  view: 'twin',
  viewports: wholePictures,
  wipe: 0.5,
  onionGap: 5,
  ride: null,
  span: null,
};

export const useView = create<View>(() => ({ ...firstView, asSeen: false }));

/** Takes a tool up, or puts it down where it is in the hand; what was being drawn is dropped. */
export const takeTool = (wanted: Tool): void =>
  useView.setState(({ tool }) => ({ tool: tool === wanted ? 'move' : wanted, draft: null }));

/** Keeps the wipe's edge on the stage. */
export const setWipe = (share: number): void =>
  useView.setState({ wipe: Math.min(Math.max(share, 0.02), 0.98) });

export const changeArea = (index: number, spline: ClosedSpline): void =>
  useView.setState(({ areas }) => ({
    areas: areas.map((area, i) => (i === index ? { ...area, spline } : area)),
  }));

export const removeArea = (index: number): void =>
  useView.setState(({ areas }) => ({ areas: areas.filter((_, i) => i !== index), editedArea: null }));

export const changeGuide = (guide: Guide): void =>
  useView.setState(({ guides }) => ({ guides: guides.map((one) => (one.id === guide.id ? guide : one)) }));

export const addGuide = (guide: Omit<Guide, 'id'>): void =>
  useView.setState(({ guides }) => ({ guides: [...guides, { ...guide, id: crypto.randomUUID() }] }));

export const removeGuide = (id: string): void =>
  useView.setState(({ guides }) => ({ guides: guides.filter((one) => one.id !== id) }));
