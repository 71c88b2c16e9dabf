import { apply } from '@lurn/core';
import { mayPaint, paint, takeSource, useBrush, type Dab } from '../../state/brush';
import { frameFromPane } from '../pane-frames';
import { toPicture } from '../panes';
import type { StagePointer, StageTool, ToolContext, ToolPhase } from './stage-tool';

/** Paints on the source, the steadied or the held picture. */
export class BrushTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';

  constructor(private readonly context: ToolContext) {}

  down(pointer: StagePointer): void {
    const dab = this.dabAt(pointer);
    if (!dab) return;
    if (pointer.shiftKey || useBrush.getState().asks) return takeSource({ x: dab.x, y: dab.y });
    if (!mayPaint()) return;
    this.phase = 'dragging';
    useBrush.setState({ draft: [dab], at: dab });
  }

  move(pointer: StagePointer): void {
    const dab = this.dabAt(pointer);
    if (!dab) return;
    const { draft } = useBrush.getState();
    const next = this.phase === 'dragging' && draft ? [...draft, dab] : draft;
    useBrush.setState({ at: dab, draft: next });
  }

  up(): void {
    const { draft } = useBrush.getState();
    if (this.phase === 'dragging' && draft) void paint(draft);
    this.phase = 'idle';
  }

  leave(): void {
    if (this.phase === 'dragging') this.up();
    useBrush.setState({ at: null });
  }

  private dabAt({ at, pane, pressure }: StagePointer): Dab | null {
    const matrix = pane && frameFromPane(pane.kind, this.context.shown());
    if (!matrix) return null;
    const { x, y } = toPicture(pane, at);
    return { ...apply(matrix, x, y), pressure };
  }
}
