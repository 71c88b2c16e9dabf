import { CancelledError, MediaError, useCores } from '@lurn/media';
import { exportMovie } from './export-movie.js';
import { FrameCache } from './frame-cache.js';
import { unpackSamples } from './packed-samples.js';
import { judge, suggest } from './suggest.js';
import type { TaskCall, TaskEnd, TaskNews } from './tasks.js';
import { trackClip } from './track-clip.js';

const newsInterval = 100;
const atHand = new FrameCache();

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
    if (task.kind === 'export') await exportMovie({ ...task, onProgress, signal });
    else if (task.kind === 'suggest') tell({ suggestions: await suggest(task, signal) });
    else if (task.kind === 'judge') tell({ score: await judge(task, atHand) });
    else if (task.kind === 'warm') await atHand.warm(task.clip, task.index, task.frame, 'luma');
    else {
      const runs = task.runs.map((run) => ({ ...run, samples: unpackSamples(run.samples) }));
      const read = task.step ? atHand.read : undefined;
      await trackClip({ ...task, runs, read, onProgress, onSamples: (found) => tell({ found }), signal });
    }
    tell({ end: 'done' });
  } catch (error) {
    const expected = error instanceof MediaError || error instanceof RangeError;
    if (signal.aborted || error instanceof CancelledError) tell({ end: 'cancelled' });
    else tell({ end: 'failed', reason: (error as Error).message, expected });
  } finally {
    port.close();
  }
}
