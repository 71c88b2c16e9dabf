import type { Point } from '@lurn/core';
import { dragTo, startDrag, type Drag } from '../drag';
import type { PaneGeometry } from '../panes';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** What is changed when the steadied picture is dragged. */
export interface PictureDrag {
  /** Where it is now. */
  from: () => Point;
  /** Output pixels to one of its own, each way. */
  scale: () => Point;
  to: (at: Point) => void;
}

/** Drags the steadied picture; Shift makes the hand finer. */
export class PictureDragTool implements StageTool {
  phase: ToolPhase = 'idle';
  private drag: Drag | null = null;
  private pane: PaneGeometry | null = null;

  constructor(private readonly what: PictureDrag) {}

  get cursor(): string {
    return this.phase === 'dragging' ? 'cursor-grabbing' : 'cursor-grab';
  }

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'steadied') return;
    const { x, y } = this.what.from();
    this.drag = startDrag({ x, y }, at);
    this.pane = pane;
    this.phase = 'dragging';
  }

  move({ at, shiftKey }: StagePointer): void {
    if (!this.drag || !this.pane) return;
    const { x, y } = this.what.scale();
    const scale = { x: this.pane.scaleX * x, y: this.pane.scaleY * y };
    const moved = dragTo(this.drag, at, scale, shiftKey);
    this.drag = moved.drag;
    this.what.to(moved.at);
  }

  up(): void {
    this.phase = 'idle';
    this.drag = null;
  }

  leave(): void {
    this.up();
  }
}
