import { defaultFollowOptions, InputError, Samples, SampleState, SceneTable } from '@lurn/core';
import { CancelledError, processesEnded, useCores, type ReadFrame } from '@lurn/media';
import { readAround } from './render/around.js';
import { exportMovie } from './render/export-movie.js';
import { readPatch, readRoundTrip } from './render/patches.js';
import { FrameCache } from './pass/frame-cache.js';
import { unpackSamples } from './analyse/packed-samples.js';
import { analyseScene, packScene } from './analyse/analyse-scene.js';
import { leftOut } from './analyse/left-out.js';
import { judge, suggest } from './analyse/suggest.js';
import type { Task, TaskCall, TaskEnd, TaskNews, TrackTask, WarmTask } from './tasks.js';
import { trackClip } from './analyse/track-clip.js';

const newsInterval = 100;
const atHand = new FrameCache();
/** The tracker is practised for so many turns of a few frames, on some of them with the picture so many rows lower. */
const turns = 24;
const turn = 3;
const jump = 40;

let practised = false;

/** Gets frames about the playhead ready, and once the tracker itself: code that never ran is slow at first. */
async function warm({ clip, index, frame }: WarmTask): Promise<void> {
  await atHand.warm(clip, index, frame, 'luma');
  if (practised) return;
  practised = true;
  // The same picture moved down by turns, so that a point is not only followed but looked for.
  const still = await atHand.get(clip, index, frame, 'luma');
  const moved = new Uint8Array(still.length);
  const down = clip.width * Math.min(jump, clip.height >> 1);
  moved.set(still.subarray(0, still.length - down), down);
  const middle = { x: clip.width / 2, y: clip.height / 2, rotation: 0, scale: 1, confidence: 1 };
  const options = { ...defaultFollowOptions, below: 'mark' as const };
  async function* pictures(): AsyncGenerator<ReadFrame> {
    for (let k = 0; k <= turn; k++) yield { frame: k, data: k === turn ? moved : still };
  }
  for (let k = 0; k < turns; k++) {
    const samples = new Samples(turn + 1);
    samples.set(0, { ...middle, state: SampleState.placed });
    const runs = [{ samples, options, from: 0 }];
    await trackClip({ clip, index, runs, direction: 'forwards', first: 0, last: turn, read: pictures });
    // A step by hand does not wait for the practice to end.
    await new Promise(setImmediate);
  }
}

/** What a task is carried out with. */
interface TaskContext {
  tell: (news: TaskNews) => void;
  onProgress: (frames: number, total?: number) => void;
  signal: AbortSignal;
}

async function track(task: TrackTask, { tell, ...context }: TaskContext): Promise<void> {
  const runs = task.runs.map((run) => ({ ...run, samples: unpackSamples(run.samples) }));
  const scene = new SceneTable();
  for (const [page, bytes] of task.scene ?? []) scene.unpackPage(page, bytes);
  const read = task.step ? atHand.read : undefined;
  try {
    await trackClip({ ...task, ...context, runs, scene, read, onSamples: (found) => tell({ found }) });
  } finally {
    const pages = [...scene.touched].map((page): [number, Uint8Array] => [page, scene.packPage(page)]);
    if (pages.length > 0) tell({ scene: pages });
  }
}

/** How each kind of task is carried out. */
const kinds: {
  [K in Task['kind']]: (task: Extract<Task, { kind: K }>, context: TaskContext) => Promise<void>;
} = {
  export: (task, context) => exportMovie({ ...task, ...context }),
  suggest: async (task, { tell, signal }) => tell({ suggestions: await suggest(task, signal) }),
  around: async (task, { tell, signal }) => tell({ around: await readAround(task, signal) }),
  patch: async ({ layer, frame, clip, index }, { tell, signal }) =>
    tell({ patch: await readPatch(layer, frame, clip, index, signal) }),
  'round-trip': async ({ layer, frame, clip, index }, { tell, signal }) =>
    tell({ roundTrip: await readRoundTrip(layer, frame, clip, index, signal) }),
  'left-out': async (task, { tell }) => tell({ leftOut: await leftOut(task, atHand) }),
  judge: async (task, { tell }) => tell({ score: await judge(task, atHand) }),
  track,
  scene: async (task, { tell, onProgress, signal }) => {
    const found = await analyseScene({
      ...task,
      first: 0,
      last: task.index.pts.length - 1,
      onProgress,
      signal,
    });
    tell({ sceneFound: packScene(found, task.clip) });
    if (signal.aborted) throw new CancelledError();
  },
  warm,
};

const carryOut = <K extends Task['kind']>(
  task: Extract<Task, { kind: K }>,
  context: TaskContext,
): Promise<void> => (kinds[task.kind] as (task: Task, context: TaskContext) => Promise<void>)(task, context);

/** The pool's threads run this: one task at a time, telling how it goes over the port. */
export default async function work({ task, port, cores }: TaskCall): Promise<void> {
  useCores(cores);
  const calledOff = new AbortController();
  port.on('message', () => calledOff.abort());
  const tell = (news: TaskNews | TaskEnd): void => port.postMessage(news);
  let told = 0;
  const onProgress = (frames: number, total?: number): void => {
    if (performance.now() - told < newsInterval) return;
    told = performance.now();
    tell({ frames, total });
  };
  const { signal } = calledOff;
  try {
    await carryOut(task, { tell, onProgress, signal });
    tell({ end: 'done' });
  } catch (error) {
    const expected = error instanceof InputError;
    if (signal.aborted || error instanceof CancelledError) tell({ end: 'cancelled' });
    else tell({ end: 'failed', reason: (error as Error).message, expected });
  } finally {
    port.close();
    // A thread that rests is ended after a while: nobody would see what it started end.
    await processesEnded();
  }
}
