import { expect, jest, test } from '@jest/globals';
import type { ClipView, SteadyView } from '@lurn/contract';
import { useDocument } from '../../state/document.js';
import { takeTool, useView } from '../../state/view.js';
import { layOut, toStage, wholePictures as both } from '../panes.js';
import type { StagePointer } from './stage-tool.js';

const clip = { width: 1000, height: 500, pixelAspect: 1 };
const [source, steadied] = layOut('twin', { width: 1010, height: 250 }, clip, both, 0.5);

/** The pointer over a place of the steadied picture. */
const over = (x: number, y: number): StagePointer => ({
  at: toStage(steadied, { x, y }),
  pane: steadied,
  pressure: 1,
  shiftKey: false,
  altKey: false,
});

test('the area to wander in is drawn on the steadied picture, whatever its zoom', async () => {
  // Nothing is saved, either.
  jest.useFakeTimers();
  // Solving runs in a thread that there is none of here.
  globalThis.Worker = class {
    postMessage(): void {}
  } as unknown as typeof Worker;
  const { WanderTool } = await import('./wander-tool.js');
  const steady = {
    mode: 'hold',
    framing: { zoom: 2, offsetX: 0, offsetY: 0 },
  } as SteadyView;
  const there = { ...clip, frames: 10, frameRate: '25/1', pixelAspect: '1:1' } as unknown as ClipView;
  useDocument.setState({ clip: there, steady });
  takeTool('wander');
  const tool = new WanderTool();
  tool.down({ ...over(100, 100), pane: source });
  expect(tool.phase).toBe('idle');
  tool.down(over(300, 150));
  tool.move(over(304, 152));
  // As small as that it is a click.
  expect(useDocument.getState().steady?.within).toBeUndefined();
  tool.move(over(700, 350));
  tool.up(over(700, 350));
  const { within, mode } = useDocument.getState().steady ?? {};
  expect(mode).toBe('smooth');
  expect(useView.getState().tool).toBe('move');
  // Before a zoom of 2 about the middle, at 500, 250.
  for (const [side, value] of [
    ['left', 400],
    ['top', 200],
    ['right', 600],
    ['bottom', 300],
  ] as const)
    expect(within?.[side]).toBeCloseTo(value, 6);
});
