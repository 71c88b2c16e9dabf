import { apply, cornerKnot, invert, smoothKnot, type Mat3, type Point, type SplineKnot } from '@lurn/core';
import { addOutline } from '../../state/layers';
import { addHoldOut, drawRegion } from '../../state/regions';
import { useView } from '../../state/view';
import { paneFromFrame } from '../pane-frames';
import { toPicture, toStage, type PaneGeometry } from '../panes';
import { isNear, snapToLines } from '../snap';
import type { StagePointer, StageTool, ToolContext, ToolPhase } from './stage-tool';

/** With fewer knots there is nothing inside. */
const leastKnots = 3;
/** Stage pixels from which on the picture's edges draw a knot to them. */
const edgeReach = 7;

/** Draws a closed spline on the source or the held picture: a click sets a corner, a drag a curve, the first knot closes it. */
export class SplineTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';

  constructor(private readonly context: ToolContext) {}

  down({ at, pane }: StagePointer): void {
    const way = this.wayInto(pane);
    if (!pane || !way) return;
    const knots = this.knots;
    const begins = knots.length >= leastKnots && apply(way, knots[0].x, knots[0].y);
    if (begins && isNear(at, toStage(pane, begins))) return closeDraft();
    const place = this.placeAt(at, pane, way);
    useView.setState({ draft: { knots: [...knots, cornerKnot(place)], next: null } });
    this.phase = 'dragging';
  }

  move({ at, pane }: StagePointer): void {
    const knots = this.knots;
    const way = this.wayInto(pane);
    if (!pane || !way || knots.length === 0) return;
    if (this.phase !== 'dragging') {
      useView.setState({ draft: { knots, next: this.placeAt(at, pane, way) } });
      return;
    }
    const last = knots[knots.length - 1];
    const knot = isNear(at, toStage(pane, apply(way, last.x, last.y)), 3)
      ? cornerKnot(last)
      : smoothKnot(last, placeIn(pane, at, way));
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

  /** How the frame shown lies in a pane's picture; null where nothing is drawn. */
  private wayInto(pane: StagePointer['pane']): Mat3 | null {
    return pane && pane.kind !== 'steadied' ? paneFromFrame(pane.kind, this.context.shown()) : null;
  }

  /** A place of the frame shown; on the source it snaps to the picture's edges. */
  private placeAt(at: Point, pane: PaneGeometry, way: Mat3): Point {
    if (pane.kind !== 'source') return placeIn(pane, at, way);
    const { width, height } = this.context.clip;
    const within = { x: edgeReach / pane.scaleX, y: edgeReach / pane.scaleY };
    return snapToLines(toPicture(pane, at), { xs: [0, width], ys: [0, height] }, within);
  }
}

function placeIn(pane: PaneGeometry, at: Point, way: Mat3): Point {
  const { x, y } = toPicture(pane, at);
  return apply(invert(way), x, y);
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
