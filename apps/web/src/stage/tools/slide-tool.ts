import { slideTo, slidBy } from '../../state/framing';
import { dragTo, startDrag, type Drag } from '../drag';
import type { PaneGeometry } from '../panes';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** Slides the steadied picture, on all frames alike; what is held stays held. Shift makes the hand finer. */
export class SlideTool implements StageTool {
  phase: ToolPhase = 'idle';
  private drag: Drag | null = null;
  private pane: PaneGeometry | null = null;

  get cursor(): string {
    return this.phase === 'dragging' ? 'cursor-grabbing' : 'cursor-grab';
  }

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'steadied') return;
    this.drag = startDrag(slidBy(), at);
    this.pane = pane;
    this.phase = 'dragging';
  }

  move({ at, shiftKey }: StagePointer): void {
    if (!this.drag || !this.pane) return;
    const moved = dragTo(this.drag, at, { x: this.pane.scaleX, y: this.pane.scaleY }, shiftKey);
    this.drag = moved.drag;
    slideTo(moved.at);
  }

  up(): void {
    this.phase = 'idle';
    this.drag = null;
  }

  leave(): void {
    this.up();
  }
}
