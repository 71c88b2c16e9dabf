import { handHere, putByHand } from '../../state/by-hand';
import { outputScale } from '../../state/framing';
import { dragTo, startDrag, type Drag } from '../drag';
import type { PaneGeometry } from '../panes';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** Drags the steadied picture to where it should be on the frame shown; Shift makes the hand finer. */
export class PutTool implements StageTool {
  phase: ToolPhase = 'idle';
  private drag: Drag | null = null;
  private pane: PaneGeometry | null = null;

  get cursor(): string {
    return this.phase === 'dragging' ? 'cursor-grabbing' : 'cursor-grab';
  }

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'steadied') return;
    const { x, y } = handHere();
    this.drag = startDrag({ x, y }, at);
    this.pane = pane;
    this.phase = 'dragging';
  }

  move({ at, shiftKey }: StagePointer): void {
    if (!this.drag || !this.pane) return;
    const { x, y } = outputScale();
    const scale = { x: this.pane.scaleX * x, y: this.pane.scaleY * y };
    const moved = dragTo(this.drag, at, scale, shiftKey);
    this.drag = moved.drag;
    putByHand(moved.at);
  }

  up(): void {
    this.phase = 'idle';
    this.drag = null;
  }

  leave(): void {
    this.up();
  }
}
