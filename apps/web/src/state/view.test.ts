import { expect, test } from '@jest/globals';
import { firstView, setWipe, takeTool, useView } from './view.js';

test('a tool is taken up, changed for another, and put down by taking it again', () => {
  const tools = (['place', 'within', 'within', 'aside'] as const).map((tool) => {
    takeTool(tool);
    return useView.getState().tool;
  });
  expect(tools).toEqual(['place', 'within', 'move', 'aside']);
  useView.setState(firstView);
  expect(useView.getState().tool).toBe('move');
});

test('the wipe stays within reach', () => {
  for (const [share, kept] of [
    [-3, 0.02],
    [0.4, 0.4],
    [2, 0.98],
  ]) {
    setWipe(share);
    expect(useView.getState().wipe).toBe(kept);
  }
});
