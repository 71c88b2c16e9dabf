import {
  apply,
  invert,
  keyedMatrix,
  matrixAt,
  movedStroke,
  multiply,
  scaleAbout,
  strokeDefaults,
  strokePoints,
  type Mat3,
  type Point,
  type RepairContent,
  type Stroke,
} from '@lurn/core';
import { toast } from 'sonner';
import { create } from 'zustand';
import { useDocument, type LayerOfClip } from './document';
import { useDressing } from './dressing';
import { addRepairLayer, changeLayer, useLayers } from './layers';
import { usePlayhead } from './playhead';

/** A place of the picture, and how hard the pen is pressed there, 0 to 1. */
export type Dab = Point & { pressure: number };
/** A layer that is painted. */
export type RepairLayer = LayerOfClip & { content: RepairContent };

/** How the brush is set, and what is under way with it; places are in clip pixels of a frame. */
interface Brush extends Pick<Stroke, 'how' | 'width' | 'soft' | 'strength' | 'buildUp' | 'colour'> {
  /** Where copies come from: a place on a frame, or the same place on it as is painted. */
  source: { frame: number; at: Point | null } | null;
  /** How far aside of the brush that is, once it has been painted with: pixels of the layer. */
  aside: readonly [number, number] | null;
  /** The next click says where copies come from. */
  asks: boolean;
  /** The stroke that is being painted, on the frame shown. */
  draft: Dab[] | null;
  /** Strokes that were painted and are not in the picture yet. */
  waiting: { layerId: string; dabs: readonly Dab[]; frame: number; count: number }[];
  /** Where the pointer is, on the frame shown. */
  at: Point | null;
  /** The stroke that is chosen of the selected layer, by its place. */
  chosen: number | null;
}

export const useBrush = create<Brush>(() => {
  const { how, width, soft, strength, buildUp, colour } = strokeDefaults(1);
  return {
    ...{ how, width, soft, strength, buildUp, colour },
    ...{ source: null, aside: null, asks: false, draft: null, waiting: [], at: null, chosen: null },
  };
});

const { getState: get, setState: set } = useBrush;

export const isRepair = (layer: LayerOfClip | undefined): layer is RepairLayer =>
  layer?.content.kind === 'repair';

/** The selected layer, where it is painted. */
export function selectedRepair(): RepairLayer | null {
  const { selected } = useLayers.getState();
  const layer = useDocument.getState().layers.find(({ id }) => id === selected);
  return isRepair(layer) ? layer : null;
}

/** How a layer lies on a frame, from that which it was drawn on; null where that is not known yet. */
export function frameFromLayer(layer: LayerOfClip, frame: number): Mat3 | null {
  const one = useDressing.getState().carried.find((each) => each.layer.id === layer.id);
  if (!one || 9 * frame >= one.carriage.frameFromLayer.length) return null;
  return multiply(matrixAt(one.carriage.frameFromLayer, frame), keyedMatrix(layer, frame));
}

/** Milliseconds that a new layer has until it is known how it is carried. */
const mostPatience = 8000;

/** How a layer lies on frames, as soon as that is known. */
async function lies(layer: LayerOfClip, frame: number): Promise<Mat3 | null> {
  const begun = performance.now();
  for (;;) {
    const matrix = frameFromLayer(layer, frame);
    if (matrix || performance.now() - begun > mostPatience) return matrix;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
}

/** Takes where copies come from. */
export const takeSource = (at: Point): void =>
  set({ source: { frame: usePlayhead.getState().shown, at }, aside: null, asks: false });

const copies = (how: Stroke['how']): boolean => how === 'clone' || how === 'heal';

/** What keeps the brush from painting, in a sentence; null where nothing does. */
export function keptFromPainting(): string | null {
  const { how, source } = get();
  const layer = selectedRepair();
  if (layer?.locked) return 'The layer is locked: unlock it first.';
  if (copies(how) && !source) return 'Say where it comes from first: Shift and a click there.';
  if (how === 'erase' && !layer?.content.strokes.length)
    return 'Nothing is painted yet that could be erased.';
  return null;
}

/** Paints a stroke over the frame shown: onto the selected repair, or a new one. */
export async function paint(dabs: readonly Dab[]): Promise<void> {
  const frame = usePlayhead.getState().shown;
  const { how, width, soft, strength, buildUp, colour, source } = get();
  const frames = useDocument.getState().clip?.frames ?? 1;
  const layer = selectedRepair() ?? (await newRepair());
  const matrix = layer && (await lies(layer, frame));
  if (!layer || !matrix || dabs.length === 0) return set({ draft: null });
  const back = invert(matrix);
  const points = thinned(dabs).map(({ x, y, pressure }) => ({ ...apply(back, x, y), pressure }));
  const aside = copies(how) && source ? asideOf(layer, points[0], source) : [0, 0];
  if (!aside) return set({ draft: null });
  const stroke: Stroke = {
    ...strokeDefaults(frames),
    ...{ how, soft, strength, buildUp, colour },
    width: round(Math.min(Math.max(width * scaleAbout(back, dabs[0]), 0.5), 2000)),
    points: points.flatMap(({ x, y, pressure }) => [round(x), round(y), round(pressure)]),
    from: source?.frame ?? layer.frame,
    aside: [round(aside[0]), round(aside[1])],
    first: layer.first,
    last: layer.last,
  };
  const now = selectedRepair() ?? layer;
  const strokes = [...now.content.strokes, stroke];
  const waits = { layerId: now.id, dabs, frame, count: strokes.length };
  set(({ waiting, draft }) => ({ waiting: [...waiting, waits], draft: draft === dabs ? null : draft }));
  setStrokes(now, strokes, 0);
  set(copies(how) ? { chosen: null, aside: [aside[0], aside[1]] } : { chosen: null });
}

/** A quarter of a hundredth of a pixel is nothing; files are half as long. */
const round = (v: number): number => Math.round(100 * v) / 100;

async function newRepair(): Promise<RepairLayer | null> {
  await addRepairLayer();
  return selectedRepair();
}

/** How far aside of a stroke's beginning its source is, pixels of the layer: as before, or by where that was set. */
function asideOf(
  layer: RepairLayer,
  begins: Point,
  { frame, at }: NonNullable<Brush['source']>,
): readonly [number, number] | null {
  const { aside } = get();
  if (!at) return [0, 0];
  if (aside) return aside;
  const matrix = frameFromLayer(layer, frame);
  if (!matrix) return null;
  const p = apply(invert(matrix), at.x, at.y);
  return [p.x - begins.x, p.y - begins.y];
}

/** Points of a stroke are kept so far apart, pixels; and no more than so many. */
const apart = 1.5;
const mostPoints = 1500;

function thinned(dabs: readonly Dab[]): Dab[] {
  const kept = [dabs[0]];
  for (const dab of dabs.slice(1)) {
    const last = kept[kept.length - 1];
    if (Math.hypot(dab.x - last.x, dab.y - last.y) >= apart) kept.push(dab);
  }
  const step = Math.ceil(kept.length / mostPoints);
  return kept.filter((_, i) => i % step === 0 || i === kept.length - 1);
}

/** Changes a repair's strokes; stored when the hand rests, or at once. */
function setStrokes(layer: RepairLayer, strokes: readonly Stroke[], rest?: number): void {
  changeLayer(layer.id, { content: { ...layer.content, strokes } }, rest);
}

export const changeStroke = (layer: RepairLayer, place: number, part: Partial<Stroke>): void =>
  setStrokes(
    layer,
    layer.content.strokes.map((one, i) => (i === place ? { ...one, ...part } : one)),
  );

export function removeStroke(layer: RepairLayer, place: number): void {
  set({ chosen: null });
  setStrokes(
    layer,
    layer.content.strokes.filter((_, i) => i !== place),
    0,
  );
}

export const moveStroke = (layer: RepairLayer, place: number, dx: number, dy: number): void =>
  changeStroke(layer, place, movedStroke(layer.content.strokes[place], dx, dy));

/** Where a stroke is grasped: its middle point, pixels of the layer. */
export function strokeMiddle(stroke: Stroke): Point {
  const points = strokePoints(stroke);
  return points[Math.floor(points.length / 2)];
}

/** Says why it cannot paint. */
export function mayPaint(): boolean {
  const reason = keptFromPainting();
  if (reason) toast.warning(reason, { id: 'brush' });
  return reason === null;
}

// What is in the picture needs nothing drawn over it any more.
useDressing.subscribe(({ carried }) => {
  const { waiting } = get();
  const left = waiting.filter(({ layerId, count }) => {
    const content = carried.find(({ layer }) => layer.id === layerId)?.layer.content;
    return content?.kind === 'repair' && content.strokes.length < count;
  });
  if (left.length < waiting.length) set({ waiting: left });
});
useLayers.subscribe((now, before) => {
  if (now.selected !== before.selected) set({ chosen: null, aside: null });
});
