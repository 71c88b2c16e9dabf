import type { Point } from '@lurn/core';
import { addGuide, changeGuide, removeGuide, useView } from '../../state/view';
import { toPicture, toStage } from '../panes';
import { isNear, snapToDirection } from '../snap';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** Radians; a line this near to level or upright is meant so. */
export const plainWithin = 0.05;

/** Sets guide marks on either picture: a cross where it is clicked, or a line where it is dragged. */
export class GuideTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';
  private id: string | null = null;

  constructor(private readonly what: 'line' | 'cross') {}

  down({ at, pane }: StagePointer): void {
    if (!pane) return;
    const from = toPicture(pane, at);
    addGuide({ pane: pane.kind, from, to: this.what === 'line' ? from : null });
    this.id = useView.getState().guides.at(-1)?.id ?? null;
    this.phase = 'dragging';
  }

  move({ at, pane, shiftKey }: StagePointer): void {
    const guide = useView.getState().guides.find(({ id }) => id === this.id);
    if (!guide || pane?.kind !== guide.pane) return;
    const here = toPicture(pane, at);
    if (!guide.to) changeGuide({ ...guide, from: here });
    else changeGuide({ ...guide, to: shiftKey ? here : snapToDirection(guide.from, here, plainWithin) });
  }

  up({ pane }: StagePointer): void {
    const guide = useView.getState().guides.find(({ id }) => id === this.id);
    // A click draws no line.
    if (guide?.to && pane && isNear(stage(pane, guide.from), stage(pane, guide.to), 4)) removeGuide(guide.id);
    else if (guide) useView.setState({ tool: 'move' });
    this.leave();
  }

  leave(): void {
    this.id = null;
    this.phase = 'idle';
  }
}

const stage = (pane: NonNullable<StagePointer['pane']>, p: Point): Point => toStage(pane, p);
