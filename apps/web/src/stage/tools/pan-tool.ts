import type { Point } from '@lurn/core';
import { useView } from '../../state/view';
import { changed, type PaneGeometry, type PaneKind, type Viewport } from '../panes';
import type { StagePointer, StageTool, ToolContext, ToolPhase } from './stage-tool';

/** Moves the pictures about, both together, or with Alt one by itself. */
export class PanTool implements StageTool {
  phase: ToolPhase = 'idle';
  private from: {
    at: Point;
    pane: PaneGeometry;
    alone: boolean;
    viewports: Record<PaneKind, Viewport>;
  } | null = null;

  constructor(private readonly context: ToolContext) {}

  get cursor(): string {
    return this.phase === 'dragging' ? 'cursor-grabbing' : 'cursor-grab';
  }

  down({ at, pane, altKey }: StagePointer): void {
    useView.setState({ editedArea: null });
    if (!pane) return;
    this.phase = 'dragging';
    this.from = { at, pane, alone: altKey, viewports: useView.getState().viewports };
  }

  move({ at }: StagePointer): void {
    if (!this.from) return;
    const { pane, alone, viewports } = this.from;
    const { width, height } = this.context.clip;
    const dx = (at.x - this.from.at.x) / (pane.scaleX * width);
    const dy = (at.y - this.from.at.y) / (pane.scaleY * height);
    const move = (v: Viewport): Viewport => ({ ...v, centreX: v.centreX - dx, centreY: v.centreY - dy });
    useView.setState({ viewports: changed(viewports, pane.kind, alone, move) });
  }

  up(): void {
    this.phase = 'idle';
    this.from = null;
  }

  leave(): void {
    this.up();
  }
}
