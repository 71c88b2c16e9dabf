import type { Point } from '@lurn/core';
import { useView } from '../../state/view';
import { wanderBetween } from '../../state/wander';
import { toPicture } from '../panes';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** Draws the area on the steadied picture that what is followed may wander in. */
export class WanderTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';
  private from: Point | null = null;

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'steadied') return;
    this.from = toPicture(pane, at);
    this.phase = 'dragging';
  }

  move({ at, pane }: StagePointer): void {
    if (this.from && pane?.kind === 'steadied') wanderBetween(this.from, toPicture(pane, at));
  }

  up({ at, pane }: StagePointer): void {
    if (this.from && pane?.kind === 'steadied' && wanderBetween(this.from, toPicture(pane, at)))
      useView.setState({ tool: 'move' });
    this.leave();
  }

  leave(): void {
    this.from = null;
    this.phase = 'idle';
  }
}
