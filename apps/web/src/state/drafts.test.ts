import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import type { ClipView, SteadyView } from '@lurn/contract';
import { freshContent, layerDefaults } from '@lurn/core';
import { flush } from './drafts.js';
import { documentOf, useDocument, type LayerOfClip } from './document.js';
import { useSync } from './sync.js';

// Nothing is solved here.
globalThis.Worker = class {
  postMessage(): void {}
} as unknown as typeof Worker;
const { onEvent } = await import('./editor.js');
const { changeLayer } = await import('./layers.js');
const { changeSteady, undo } = await import('./steadying.js');

const steady = { mode: 'hold', smoothSeconds: 1, range: { first: 0, last: 9 } } as SteadyView;
const layer = {
  ...layerDefaults,
  ...{ id: 'sign', clipId: 'quay', name: 'Sign', position: 0, locked: false, solo: false },
  ...{ first: 0, last: 9, frame: 0, content: freshContent('cover') },
} as LayerOfClip;
const clip = {
  ...{ id: 'quay', frames: 10, width: 96, height: 64, pixelAspect: '1:1', frameRate: '25', times: null },
  ...{ tracks: [], scene: null, layers: [layer], pages: [], stale: [], steady, kept: [], jobs: [] },
  ...{ revision: 3, history: { undo: 'Add layer', redo: null } },
} as unknown as ClipView;

interface Asked {
  method: string;
  path: string;
  base: string | undefined;
  body: { layer?: LayerOfClip; steady?: SteadyView };
}
let asked: Asked[];
/** What the server answers, one after another; a change of nothing where it is not said. */
let answers: { status: number; body: object }[];
const before = globalThis.fetch;

beforeEach(() => {
  jest.useFakeTimers();
  [asked, answers] = [[], []];
  globalThis.fetch = ((path: string, { method, headers, body }: RequestInit) => {
    const base = (headers as Record<string, string>)['x-lurn-base'];
    asked.push({
      method: method ?? '',
      path,
      base,
      body: JSON.parse((body as string) ?? '{}') as Asked['body'],
    });
    const nothing = {
      clipId: 'elsewhere',
      records: [],
      pages: [],
      stale: [],
      revision: 4,
      history: clip.history,
    };
    const answer = answers.shift() ?? { status: 200, body: nothing };
    return Promise.resolve(new Response(JSON.stringify(answer.body), { status: answer.status }));
  }) as typeof fetch;
  useDocument.setState({ ...documentOf(clip), result: null });
});
afterEach(async () => {
  await flush();
  jest.useRealTimers();
  globalThis.fetch = before;
});

const told = (part: object): void =>
  onEvent({
    type: 'change',
    change: {
      ...{ clipId: 'quay', pages: [], stale: [], history: clip.history, revision: 4, records: [] },
      ...part,
    },
  });

test('undo right after a layer was dragged takes that back: it is stored before', async () => {
  changeLayer('sign', { opacity: 0.5 });
  const undone = undo();
  await jest.advanceTimersByTimeAsync(1000);
  await undone;
  expect(asked.map(({ method, path }) => `${method} ${path}`)).toEqual([
    'PUT /api/layers/sign',
    'POST /api/clips/quay/undo',
  ]);
  expect(asked[0].body.layer?.opacity).toBe(0.5);
});

test('what another window changed while a slider moves is not written over silently', async () => {
  changeSteady({ smoothSeconds: 2 }, 'Smoothing');
  told({ records: [{ kind: 'steady', id: 'quay', view: { ...steady, smoothSeconds: 5, edge: 'blur' } }] });
  // What the hand holds stays; the rest is the other's.
  expect(useDocument.getState().steady).toMatchObject({ smoothSeconds: 2, edge: 'blur' });
  answers.push({ status: 409, body: { statusCode: 409, message: 'Another window.', conflict: 'Smoothing' } });
  answers.push({ status: 200, body: { ...clip, revision: 4, steady: { ...steady, smoothSeconds: 5 } } });
  await jest.advanceTimersByTimeAsync(400);
  // It says what it was begun on, though the revision that is known is newer.
  expect([asked[0].base, useDocument.getState().revision]).toEqual(['3', 4]);
  expect(useSync.getState().conflict?.message).toBe('Another window.');
  useSync.getState().conflict?.choose(false);
  await jest.advanceTimersByTimeAsync(10);
  expect(useDocument.getState().steady?.smoothSeconds).toBe(5);
  expect(useSync.getState().unsaved).toBe(false);
});

test('an answer to an earlier change does not undo a later one; one rest is one edit', async () => {
  changeLayer('sign', { opacity: 0.9 });
  changeLayer('sign', { opacity: 0.8 });
  await jest.advanceTimersByTimeAsync(400);
  changeLayer('sign', { blend: 'screen' });
  told({ records: [{ kind: 'layer', id: 'sign', view: { ...layer, opacity: 0.8 } }] });
  expect(useDocument.getState().layers[0]).toMatchObject({ opacity: 0.8, blend: 'screen' });
  await jest.advanceTimersByTimeAsync(400);
  expect(asked.map(({ body }) => [body.layer?.opacity, body.layer?.blend])).toEqual([
    [0.8, 'normal'],
    [0.8, 'screen'],
  ]);
});
