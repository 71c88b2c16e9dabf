import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { JobKind, JobView } from '@lurn/contract';
import { CancelledError, MediaError } from '@lurn/media';
import { WorkerPool } from '@lurn/pipeline';
import { desc, eq, inArray } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips, jobs } from '../database/schema.js';
import { EventHub } from '../events/event-hub.js';
import { log } from '../log.js';

export interface NewJob {
  projectId: string;
  clipId: string;
  kind: JobKind;
  total: number;
  trackIds?: string[];
  fileName?: string;
}

export interface JobHandle {
  id: string;
  signal: AbortSignal;
  /** `total` where it is known better on the way. */
  progress: (done: number, total?: number) => void;
}

interface Running {
  job: JobView;
  stop: AbortController;
  ended: Promise<void>;
}

/** Long work: a row each, told of as it goes, called off on demand, and at the end of the server. */
@Injectable()
export class JobsService implements OnApplicationShutdown {
  readonly pool = new WorkerPool();
  /** For what a person waits for: steps by hand, scores under the pointer. Frames stay decoded there. */
  readonly atHand = new WorkerPool(1, 8);
  private readonly running = new Map<string, Running>();
  private closing = false;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly hub: EventHub,
  ) {}

  /** Jobs that an earlier run of the server left behind say so. */
  async settleInterrupted(): Promise<void> {
    await this.database
      .update(jobs)
      .set({ state: 'interrupted' })
      .where(inArray(jobs.state, ['waiting', 'running']));
  }

  /** Starts work in the background and returns its row at once. */
  async start(fresh: NewJob, work: (handle: JobHandle) => Promise<void>): Promise<JobView> {
    const { projectId } = fresh;
    const job: JobView = {
      id: randomUUID(),
      clipId: fresh.clipId,
      kind: fresh.kind,
      state: 'running',
      done: 0,
      total: fresh.total,
      error: null,
      startedAt: new Date().toISOString(),
      trackIds: fresh.trackIds ?? [],
      fileName: fresh.fileName ?? null,
    };
    await this.database.insert(jobs).values(job);
    this.hub.tell(projectId, { type: 'job', job: { ...job } });
    const stop = new AbortController();
    const ended = this.follow(projectId, job, stop, work);
    this.running.set(job.id, { job, stop, ended });
    return { ...job };
  }

  private async follow(
    projectId: string,
    job: JobView,
    stop: AbortController,
    work: (handle: JobHandle) => Promise<void>,
  ): Promise<void> {
    let told = 0;
    const progress = (done: number, total = job.total): void => {
      job.total = total;
      job.done = Math.min(done, job.total || done);
      if (performance.now() - told < 100) return;
      told = performance.now();
      this.hub.tell(projectId, { type: 'job', job: { ...job } });
    };
    try {
      await work({ id: job.id, signal: stop.signal, progress });
      job.state = 'done';
      job.done = job.total;
    } catch (error) {
      if (error instanceof CancelledError || stop.signal.aborted) {
        job.state = this.closing ? 'interrupted' : 'cancelled';
      } else {
        job.state = 'failed';
        job.error =
          error instanceof MediaError
            ? error.message
            : 'Something went wrong on the server; its log says what.';
        if (!(error instanceof MediaError)) log.error({ err: error, job: job.id }, 'job failed');
      }
    }
    await this.database.update(jobs).set(job).where(eq(jobs.id, job.id));
    this.running.delete(job.id);
    this.hub.tell(projectId, { type: 'job', job: { ...job } });
  }

  /** Calls a job off; it ends soon after. Returns false when it is not running. */
  cancel(id: string): boolean {
    const found = this.running.get(id);
    found?.stop.abort();
    return found !== undefined;
  }

  async cancelAllOf(clipId: string): Promise<void> {
    const own = [...this.running.values()].filter(({ job }) => job.clipId === clipId);
    own.forEach(({ stop }) => stop.abort());
    await Promise.all(own.map(({ ended }) => ended));
  }

  /** The clip's latest jobs, running ones as they stand. */
  async ofClip(clipId: string): Promise<JobView[]> {
    const rows = await this.database
      .select()
      .from(jobs)
      .where(eq(jobs.clipId, clipId))
      .orderBy(desc(jobs.startedAt))
      .limit(20);
    return rows.map((row) => ({ ...(this.running.get(row.id)?.job ?? row) }));
  }

  async find(id: string): Promise<(JobView & { projectId: string }) | null> {
    const [row] = await this.database
      .select({ job: jobs, projectId: clips.projectId })
      .from(jobs)
      .innerJoin(clips, eq(clips.id, jobs.clipId))
      .where(eq(jobs.id, id));
    return row ? { ...(this.running.get(id)?.job ?? row.job), projectId: row.projectId } : null;
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    const all = [...this.running.values()];
    all.forEach(({ stop }) => stop.abort());
    await Promise.all(all.map(({ ended }) => ended));
    await Promise.all([this.pool.close(), this.atHand.close()]);
    this.database.$client.close();
  }
}
