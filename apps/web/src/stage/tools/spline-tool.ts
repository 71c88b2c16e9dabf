import { cornerKnot, smoothKnot, type Point, type SplineKnot } from '@lurn/core';
import { addOutline } from '../../state/layers';
import { addHoldOut, drawRegion } from '../../state/regions';
import { useView } from '../../state/view';
import { toPicture, toStage } from '../panes';
import { isNear, snapToLines } from '../snap';
import type { StagePointer, StageTool, ToolContext, ToolPhase } from './stage-tool';

/** With fewer knots there is nothing inside. */
const leastKnots = 3;
/** Stage pixels from which on the picture's edges draw a knot to them. */
const edgeReach = 7;

/** Draws a closed spline on the source: a click sets a corner, a drag a curve, the first knot closes it. */
export class SplineTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';

  constructor(private readonly context: ToolContext) {}

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'source') return;
    const knots = this.knots;
    if (knots.length >= leastKnots && isNear(at, toStage(pane, knots[0]))) return closeDraft();
    const place = this.snapped(at, pane);
    useView.setState({ draft: { knots: [...knots, cornerKnot(place)], next: null } });
    this.phase = 'dragging';
  }

  move({ at, pane }: StagePointer): void {
    const knots = this.knots;
    if (pane?.kind !== 'source' || knots.length === 0) return;
    if (this.phase !== 'dragging') {
      useView.setState({ draft: { knots, next: this.snapped(at, pane) } });
      return;
    }
    const last = knots[knots.length - 1];
    const knot = isNear(at, toStage(pane, last), 3)
      ? cornerKnot(last)
      : smoothKnot(last, toPicture(pane, at));
    useView.setState({ draft: { knots: [...knots.slice(0, -1), knot], next: null } });
  }

  up(): void {
    this.phase = this.knots.length > 0 ? 'pointing' : 'idle';
  }

  leave(): void {
    this.up();
  }

  /** Closes what has been drawn: the same as clicking on its first knot. */
  static finish(): boolean {
    const { draft } = useView.getState();
    if (!draft || draft.knots.length < leastKnots) return false;
    closeDraft();
    return true;
  }

  /** Takes the last knot back; false where there is none. */
  static takeBack(): boolean {
    const { draft } = useView.getState();
    if (!draft || draft.knots.length === 0) return false;
    const knots = draft.knots.slice(0, -1);
    useView.setState({ draft: knots.length > 0 ? { knots, next: null } : null });
    return true;
  }

  private get knots(): SplineKnot[] {
    return useView.getState().draft?.knots ?? [];
  }

  private snapped(at: Point, pane: NonNullable<StagePointer['pane']>): Point {
    const { width, height } = this.context.clip;
    const within = { x: edgeReach / pane.scaleX, y: edgeReach / pane.scaleY };
    return snapToLines(toPicture(pane, at), { xs: [0, width], ys: [0, height] }, within);
  }
}

function closeDraft(): void {
  const { draft, tool } = useView.getState();
  if (!draft) return;
  const spline = { knots: draft.knots };
  if (tool === 'outline' || tool === 'cutout') addOutline(spline, tool === 'cutout');
  else if (tool === 'region') void drawRegion(spline);
  else if (tool === 'hold-out') addHoldOut(spline);
  else if (tool === 'within' || tool === 'without')
    useView.setState(({ areas }) => ({
      areas: [...areas, { kind: tool, spline }],
      editedArea: areas.length,
    }));
  else return;
  useView.setState({ draft: null, tool: 'move' });
}
