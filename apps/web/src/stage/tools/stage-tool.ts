import type { Point } from '@lurn/core';
import type { Aim } from '../overlays/box';
import type { PaneGeometry, ShownSize } from '../panes';

/** What a tool is told of the pointer. */
export interface StagePointer {
  /** Stage pixels. */
  at: Point;
  /** The pane under it, as it is on the frame shown; null beside both. */
  pane: PaneGeometry | null;
  /** Of a pen, 0 to 1; anything else is pressed wholly. */
  pressure: number;
  shiftKey: boolean;
  altKey: boolean;
}

/** What a tool may look at and do besides changing the view. */
export interface ToolContext {
  /** Panes as they are on the frame shown. */
  panes: () => readonly PaneGeometry[];
  clip: ShownSize;
  /** The frame that is drawn. */
  shown: () => number;
  /** Shows the loupe; null puts it away. */
  aim: (aim: Aim | null) => void;
}

/** Waiting; over the stage with something begun; with the button down. */
export type ToolPhase = 'idle' | 'pointing' | 'dragging';

/**
 * What is in the hand, as a small state machine. Things on the stage that can be grasped by themselves, boxes, knots and
 * marks, are grasped before a tool hears of the pointer.
 */
export interface StageTool {
  readonly phase: ToolPhase;
  readonly cursor: string;
  down(pointer: StagePointer): void;
  move(pointer: StagePointer): void;
  up(pointer: StagePointer): void;
  /** The pointer has left the stage, or the system took it away. */
  leave(): void;
}
