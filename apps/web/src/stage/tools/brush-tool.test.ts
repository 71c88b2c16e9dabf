import { beforeEach, expect, test } from '@jest/globals';
import type { ClipView } from '@lurn/contract';
import { apply, carryLayers, evenTimes, similarityMatrix, type Samples } from '@lurn/core';
import { readLayer } from '@lurn/model';
import type { LayerOfClip } from '../../state/document.js';
import { layOut, toStage, wholePictures, type PaneGeometry } from '../panes.js';
import type { StagePointer, ToolContext } from './stage-tool.js';

// Solving runs in a thread that there is none of here, and nothing is stored.
globalThis.Worker = class {
  postMessage(): void {}
} as unknown as typeof Worker;
globalThis.fetch = () => new Promise(() => undefined);
const { BrushTool } = await import('./brush-tool.js');
const { useBrush, keptFromPainting, selectedRepair } = await import('../../state/brush.js');
const { useDocument } = await import('../../state/document.js');
const { useDressing } = await import('../../state/dressing.js');
const { heldPlacing, useHeld } = await import('../../state/held.js');
const { useLayers } = await import('../../state/layers.js');
const { usePlayhead } = await import('../../state/playhead.js');
const { useView } = await import('../../state/view.js');
const { SplineTool } = await import('./spline-tool.js');

const clip = { width: 1000, height: 500, pixelAspect: 1 };
const frames = 6;
const [held, source] = layOut('held', { width: 1010, height: 250 }, clip, wholePictures, 0.5);
const context: ToolContext = { panes: () => [held, source], clip, shown: () => 4, aim: () => undefined };
/** The thing goes ten pixels to the right a frame and grows. */
const thing = (k: number) =>
  similarityMatrix({ x: 10 * k, y: 0, rotation: 0, scale: 1 + 0.1 * k }, { x: 0, y: 0 });

const over = (x: number, y: number, pane: PaneGeometry, more = {}): StagePointer => ({
  ...{ at: toStage(pane, { x, y }), pane, pressure: 1, shiftKey: false, altKey: false },
  ...more,
});

beforeEach(() => {
  const layer = {
    ...readLayer({ id: 'r', name: 'Repair', content: { kind: 'repair' } }, frames),
    clipId: 'c',
  };
  const [one] = carryLayers(
    [layer],
    {
      clip: { ...clip, pixelAspect: '1:1', times: evenTimes(frames, 25) },
      ...{ tracks: new Map<string, Samples>(), scene: null },
    },
    new Map(),
  );
  for (let k = 0; k < frames; k++) one.carriage.frameFromLayer.set(thing(k), 9 * k);
  useDocument.setState({
    clip: { id: 'c', ...clip, frames, pixelAspect: '1:1' } as unknown as ClipView,
    layers: [layer as unknown as LayerOfClip],
  });
  useLayers.setState({ selected: 'r' });
  useDressing.setState({ carried: [one], held: one.carriage });
  useHeld.setState({ squared: false });
  usePlayhead.setState({ shown: 4, frame: 4 });
  useView.setState({ view: 'held', tool: 'brush', draft: null });
  useBrush.setState({ how: 'colour', width: 30, source: null, aside: null, draft: null, waiting: [] });
});

const settled = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 60));
const painted = () => selectedRepair()?.content.strokes ?? [];

async function stroke(pane: PaneGeometry, points: number[][], pressure = 1): Promise<void> {
  const tool = new BrushTool(context);
  tool.down(over(points[0][0], points[0][1], pane, { pressure }));
  for (const [x, y] of points.slice(1)) tool.move(over(x, y, pane, { pressure }));
  expect(tool.phase).toBe('dragging');
  tool.up();
  await settled();
}

test('what is painted over the source lies where the layer was drawn, as wide as it is there', async () => {
  await stroke(source, [
    [300, 200],
    [340, 200],
  ]);
  const [{ points, width }] = painted();
  const at = apply(thing(4), points[0], points[1]);
  expect([at.x, at.y].map(Math.round)).toEqual([300, 200]);
  expect(width).toBeCloseTo(30 / 1.4, 1);
});

test('over the held picture the same stroke is the same, wherever the thing is by now; a pen tells how hard', async () => {
  // The held picture is that of frame 0.
  await stroke(
    held,
    [
      [100, 150],
      [160, 150],
    ],
    0.5,
  );
  const [{ points }] = painted();
  expect(points.map((v) => Math.round(10 * v) / 10)).toEqual([100, 150, 0.5, 160, 150, 0.5]);
  expect(heldPlacing()?.size).toEqual({ width: 1000, height: 500 });
});

test('a copy comes from as far aside as was said, on the frame that it was said on, and goes on so', async () => {
  useBrush.setState({ how: 'clone' });
  expect(keptFromPainting()).toContain('Shift and a click');
  new BrushTool(context).down(over(300, 200, source));
  expect(useBrush.getState().draft).toBeNull();
  new BrushTool(context).down(over(370, 200, source, { shiftKey: true }));
  expect(useBrush.getState().source).toMatchObject({ frame: 4 });
  expect(keptFromPainting()).toBeNull();
  await stroke(source, [
    [300, 200],
    [310, 200],
  ]);
  await stroke(source, [
    [500, 300],
    [520, 300],
  ]);
  const [first, second] = painted();
  expect([first.from, first.aside[0]]).toEqual([4, expect.closeTo(50, 0)]);
  expect(second.aside).toEqual(first.aside);
  // The same place on another frame is no way aside.
  useBrush.setState({ source: { frame: 1, at: null }, aside: null });
  await stroke(source, [[400, 100]]);
  expect(painted()[2]).toMatchObject({ from: 1, aside: [0, 0] });
});

test('a locked layer is not painted, and where nothing is painted nothing is erased', () => {
  useBrush.setState({ how: 'erase' });
  expect(keptFromPainting()).toContain('Nothing is painted yet');
  useDocument.setState(({ layers }) => ({ layers: layers.map((one) => ({ ...one, locked: true })) }));
  expect(keptFromPainting()).toContain('locked');
});

test('outlines are drawn in the held picture, too: their knots lie on the frame shown', () => {
  useView.setState({ tool: 'outline' });
  const tool = new SplineTool(context);
  tool.down(over(100, 150, held));
  tool.up();
  const [knot] = useView.getState().draft?.knots ?? [];
  const wanted = apply(thing(4), 100, 150);
  expect(Math.hypot(knot.x - wanted.x, knot.y - wanted.y)).toBeLessThan(0.01);
});
