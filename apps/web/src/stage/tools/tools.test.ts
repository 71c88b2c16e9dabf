import { beforeEach, expect, test } from '@jest/globals';
import { firstView, takeTool, useView } from '../../state/view.js';
import { layOut, toStage, wholePictures as both } from '../panes.js';
import { GuideTool } from './guide-tool.js';
import { PanTool } from './pan-tool.js';
import type { StagePointer, ToolContext } from './stage-tool.js';

// Solving runs in a thread that there is none of here.
globalThis.Worker = class {
  postMessage(): void {}
} as unknown as typeof Worker;
const { SplineTool } = await import('./spline-tool.js');

const clip = { width: 1000, height: 500, pixelAspect: 1 };
const [source, steadied] = layOut('twin', { width: 1010, height: 250 }, clip, both, 0.5);
const context: ToolContext = { panes: () => [source, steadied], clip, shown: () => 0, aim: () => undefined };

/** The pointer over a place of a picture. */
const over = (x: number, y: number, pane = source, held = {}): StagePointer => ({
  at: toStage(pane, { x, y }),
  pane,
  pressure: 1,
  shiftKey: false,
  altKey: false,
  ...held,
});

beforeEach(() => useView.setState({ ...firstView }));

test('clicks set corners, a drag sets a curve, the first knot closes', () => {
  takeTool('within');
  const tool = new SplineTool(context);
  expect(tool.phase).toBe('idle');
  for (const [x, y] of [
    [100, 100],
    [400, 100],
  ]) {
    tool.down(over(x, y));
    expect(tool.phase).toBe('dragging');
    tool.up();
  }
  expect(SplineTool.finish()).toBe(false);
  tool.down(over(400, 300));
  tool.move(over(350, 350));
  tool.up();
  expect(tool.phase).toBe('pointing');
  tool.move(over(103, 103));
  tool.down(over(103, 103));
  const { areas, tool: inHand, draft, editedArea } = useView.getState();
  expect([inHand, draft, editedArea]).toEqual(['move', null, 0]);
  expect(areas[0].kind).toBe('within');
  expect(areas[0].spline.knots.map(({ x, y, outX, outY }) => [x, y, outX, outY].map(Math.round))).toEqual([
    [100, 100, 0, 0],
    [400, 100, 0, 0],
    [400, 300, -50, 50],
  ]);
});

test('a knot is drawn to the edge of the picture, and the last one can be taken back', () => {
  takeTool('without');
  const tool = new SplineTool(context);
  tool.down(over(6, 200));
  tool.up();
  expect(useView.getState().draft?.knots[0].x).toBe(0);
  tool.down(over(6, 300, steadied));
  expect(useView.getState().draft?.knots).toHaveLength(1);
  expect([SplineTool.takeBack(), SplineTool.takeBack()]).toEqual([true, false]);
  expect(useView.getState().draft).toBeNull();
});

test('a line is dragged on either picture and comes out level; a mere click leaves none', () => {
  takeTool('line');
  const tool = new GuideTool('line');
  tool.down(over(100, 100, steadied));
  tool.move(over(500, 104, steadied));
  expect(tool.phase).toBe('dragging');
  tool.up(over(500, 104, steadied));
  const [guide] = useView.getState().guides;
  expect([guide.pane, guide.to?.y]).toEqual(['steadied', guide.from.y]);
  tool.down(over(10, 10));
  tool.up(over(11, 10));
  expect(useView.getState().guides).toHaveLength(1);
  const cross = new GuideTool('cross');
  cross.down(over(30, 40));
  cross.up(over(30, 40));
  expect(useView.getState().guides[1].to).toBeNull();
});

test('panning moves both pictures, with Alt one', () => {
  const tool = new PanTool(context);
  tool.down(over(500, 250));
  tool.move(over(600, 200));
  tool.up();
  const { viewports } = useView.getState();
  expect(viewports.source.centreX).toBeCloseTo(0.4, 9);
  expect(viewports.steadied.centreY).toBeCloseTo(0.6, 9);
  tool.down(over(500, 250, source, { altKey: true }));
  tool.move(over(400, 250));
  tool.leave();
  const now = useView.getState().viewports;
  expect(
    [now.source.centreX, now.steadied].map((v) => (typeof v === 'number' ? Number(v.toFixed(9)) : v)),
  ).toEqual([0.5, viewports.steadied]);
  expect(tool.phase).toBe('idle');
});
