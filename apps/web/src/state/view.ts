import { create } from 'zustand';
import { wholePicture, type StageView, type Viewport } from '../stage/panes';

/** `aside` puts the box on another feature; `within` and `without` draw areas for suggestions. */
export type Tool = 'move' | 'place' | 'aside' | 'within' | 'without';

/** A rectangle of the picture to look in or to keep out of, clip pixels. */
export interface Area {
  kind: 'within' | 'without';
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** How one looks at the clip, and with what in the hand; nothing of it is stored. */
export interface View {
  tool: Tool;
  /** Areas drawn for suggestions. */
  areas: Area[];
  /** The source is shown as the selected track sees it. */
  asSeen: boolean;
  view: StageView;
  viewport: Viewport;
  /** The share of the stage's width left to the source. */
  wipe: number;
}

/** As a clip is first looked at. */
export const firstView: Omit<View, 'asSeen'> = {
  tool: 'move',
  areas: [],
  view: 'twin',
  viewport: wholePicture,
  wipe: 0.5,
};

export const useView = create<View>(() => ({ ...firstView, asSeen: false }));

/** Takes a tool up, or puts it down where it is in the hand. */
export const takeTool = (wanted: Tool): void =>
  useView.setState(({ tool }) => ({ tool: tool === wanted ? 'move' : wanted }));

/** Keeps the wipe's edge on the stage. */
export const setWipe = (share: number): void =>
  useView.setState({ wipe: Math.min(Math.max(share, 0.02), 0.98) });
