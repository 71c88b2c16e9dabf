import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { MessageChannel } from 'node:worker_threads';
import { CancelledError, MediaError } from '@lurn/media';
import { Piscina } from 'piscina';
import type { Task, TaskCall, TaskEnd, TaskNews } from './tasks.js';

/** Milliseconds that a task has, once it is called off, until its thread is ended. */
const untilHung = 500;

const tooLong = (limit = 0): MediaError =>
  new MediaError(`This took longer than ${limit / 1000} s; it was called off.`);

/**
 * Runs tasks on threads of their own, as many at once as there are cores; others wait their turn. With
 * `together` one thread takes several tasks at once: short ones, which mostly wait for frames.
 */
export class WorkerPool {
  private readonly pool: Piscina<TaskCall, void>;
  private cores = availableParallelism();

  constructor(threads = availableParallelism(), together = 1) {
    this.pool = new Piscina<TaskCall, void>({
      filename: fileURLToPath(new URL('worker.js', import.meta.url)),
      minThreads: 0,
      maxThreads: Math.max(1, threads),
      concurrentTasksPerWorker: together,
      idleTimeout: 30_000,
    });
  }

  /**
   * Resolves when the task is done. Throws a MediaError with the reason when it failed, a CancelledError
   * when `signal` called it off; the task then ends its ffmpeg itself. What takes longer than `limit` milliseconds is called
   * off, and its thread ended where it does not hear that.
   */
  async run(
    task: Task,
    onNews: (news: TaskNews) => void,
    { signal, limit }: { signal?: AbortSignal; limit?: number } = {},
  ): Promise<void> {
    if (signal?.aborted) throw new CancelledError();
    const { port1, port2 } = new MessageChannel();
    // The end comes over the same port as the news, so that none of it is overtaken.
    const ended = new Promise<TaskEnd>((resolve) => {
      port1.on('message', (said: TaskNews | TaskEnd) => ('end' in said ? resolve(said) : onNews(said)));
    });
    const callOff = (): void => port1.postMessage('cancel');
    signal?.addEventListener('abort', callOff, { once: true });
    const hung = new AbortController();
    let late = false;
    const timers = limit
      ? [
          setTimeout(() => {
            late = true;
            callOff();
          }, limit),
          setTimeout(() => hung.abort(), limit + untilHung),
        ]
      : [];
    try {
      const call = { task, port: port2, cores: this.cores };
      const ran = this.pool.run(call, { transferList: [port2], signal: limit ? hung.signal : undefined });
      // The task has ended when it says so; its thread may still see to what it started.
      const end = await Promise.race([ended, ran.then(() => ended)]).catch((error: unknown) => {
        if (late) throw tooLong(limit);
        throw error;
      });
      ran.catch(() => undefined);
      if (late && end.end === 'cancelled') throw tooLong(limit);
      if (end.end === 'cancelled') throw new CancelledError();
      if (end.end === 'failed') throw end.expected ? new MediaError(end.reason) : new Error(end.reason);
    } finally {
      timers.forEach(clearTimeout);
      signal?.removeEventListener('abort', callOff);
      port1.close();
    }
  }

  /** How many cores each task may take from now on. */
  useCores(count: number): void {
    this.cores = count;
  }

  /** Ends the threads; running tasks should have been called off before. */
  close(): Promise<void> {
    return this.pool.close();
  }
}
