import { randomUUID } from 'node:crypto';
import { availableParallelism } from 'node:os';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type { JobKind, JobView } from '@lurn/contract';
import { CancelledError, useCores } from '@lurn/media';
import { WorkerPool } from '@lurn/pipeline';
import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips, jobs } from '../database/schema.js';
import { EventHub } from '../events/event-hub.js';
import { sentenceOf } from '../failure.filter.js';
import { log } from '../log.js';

export interface NewJob {
  projectId: string;
  clipId: string;
  kind: JobKind;
  total: number;
  trackIds?: string[];
  fileName?: string;
  /** What was asked for, so that it can be started again. */
  request?: object;
  /** A person waits for it: it begins whatever else goes on. */
  atOnce?: boolean;
  /** Puts things in order after a person has called it off, begun or not. */
  onCancelled?: () => Promise<void>;
}

type Restart = (clipId: string, request: object | null) => Promise<unknown>;

export interface JobHandle {
  id: string;
  signal: AbortSignal;
  /** `total` where it is known better on the way. */
  progress: (done: number, total?: number) => void;
}

interface Entry {
  job: JobView;
  projectId: string;
  atOnce: boolean;
  stop: AbortController;
  work: (handle: JobHandle) => Promise<void>;
  ended: Promise<void>;
  end: () => void;
  onCancelled: (() => Promise<void>) | undefined;
}

/**
 * Long work: a row each, told of as it goes, called off on demand, and at the end of the server. As many at once as
 * there are cores to use; of those that wait, the clip with the least going on comes first. Exports go one after another, in
 * the order in which they were asked for: each keeps all cores busy by itself.
 */
@Injectable()
export class JobsService implements OnApplicationShutdown {
  readonly pool = new WorkerPool();
  /** For what a person waits for: steps by hand, scores under the pointer. Frames stay decoded there. */
  readonly atHand = new WorkerPool(1, 8);
  private readonly running = new Map<string, Entry>();
  private readonly waiting: Entry[] = [];
  /** How each kind of job is started anew. */
  private readonly restarts = new Map<JobKind, Restart>();
  private closing = false;
  cores = availableParallelism();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly hub: EventHub,
  ) {}

  /** Says how jobs of a kind are started anew, from what was asked for. */
  restartWith(kind: JobKind, restart: Restart): void {
    this.restarts.set(kind, restart);
  }

  /** Starts a job anew that has ended. */
  async again(id: string): Promise<void> {
    const job = await this.find(id);
    if (!job) throw new NotFoundException('There is no such job.');
    if (job.state === 'running' || job.state === 'waiting')
      throw new ConflictException('This job is still going on.');
    const restart = this.restarts.get(job.kind);
    if (!restart) throw new ConflictException('This job cannot be started anew.');
    await restart(job.clipId, job.request);
  }

  /** Jobs that an earlier run of the server left behind say so. */
  async settleInterrupted(): Promise<void> {
    await this.database
      .update(jobs)
      .set({ state: 'interrupted' })
      .where(inArray(jobs.state, ['waiting', 'running']));
  }

  /** Goes on with the queue where an earlier run of the server left it: each job is started anew, as it was asked for. */
  async resume(kinds: JobKind[]): Promise<void> {
    const left = await this.database
      .select()
      .from(jobs)
      .where(and(inArray(jobs.kind, kinds), eq(jobs.state, 'interrupted')))
      .orderBy(asc(jobs.startedAt));
    for (const { id, kind, clipId, request } of left) {
      try {
        await this.restarts.get(kind)?.(clipId, request);
        await this.database.delete(jobs).where(eq(jobs.id, id));
      } catch (error) {
        const sentence = sentenceOf(error);
        if (sentence === null) log.error({ err: error, job: id }, 'job not resumed');
        await this.database.update(jobs).set({ state: 'failed', error: sentence }).where(eq(jobs.id, id));
      }
    }
  }

  useCores(cores: number): void {
    this.cores = cores;
    useCores(cores);
    this.pool.useCores(cores);
    this.beginNext();
  }

  /** Starts work in the background, in its turn, and returns its row at once. */
  async start(fresh: NewJob, work: (handle: JobHandle) => Promise<void>): Promise<JobView> {
    const { projectId, atOnce = false, request = null, onCancelled } = fresh;
    const job: JobView = {
      id: randomUUID(),
      clipId: fresh.clipId,
      kind: fresh.kind,
      state: 'waiting',
      done: 0,
      total: fresh.total,
      error: null,
      startedAt: new Date().toISOString(),
      trackIds: fresh.trackIds ?? [],
      fileName: fresh.fileName ?? null,
    };
    await this.database.insert(jobs).values({ ...job, request });
    let end!: () => void;
    const ended = new Promise<void>((resolve) => (end = resolve));
    const stop = new AbortController();
    const entry: Entry = { job, projectId, atOnce, stop, work, ended, end, onCancelled };
    this.waiting.push(entry);
    this.beginNext();
    if (job.state === 'waiting') this.hub.tell(projectId, { type: 'job', job: { ...job } });
    return { ...job };
  }

  private beginNext(): void {
    for (;;) {
      const heavy = [...this.running.values()].filter(({ atOnce }) => !atOnce);
      const load = ({ job: { clipId } }: Entry): number =>
        heavy.filter((e) => e.job.clipId === clipId).length;
      const isExport = ({ job }: Entry): boolean => job.kind === 'export';
      const nextExport = heavy.some(isExport) ? undefined : this.waiting.find(isExport);
      const ready = this.waiting.filter(
        (entry) => entry.atOnce || (heavy.length < this.cores && (!isExport(entry) || entry === nextExport)),
      );
      if (ready.length === 0) return;
      const next = ready.reduce((best, entry) => (load(entry) < load(best) ? entry : best));
      this.waiting.splice(this.waiting.indexOf(next), 1);
      this.running.set(next.job.id, next);
      next.job.state = 'running';
      next.job.startedAt = new Date().toISOString();
      this.hub.tell(next.projectId, { type: 'job', job: { ...next.job } });
      void this.follow(next);
    }
  }

  private async follow(entry: Entry): Promise<void> {
    const { job, projectId, atOnce, stop, work } = entry;
    let told = 0;
    const progress = (done: number, total = job.total): void => {
      job.total = total;
      job.done = Math.min(done, job.total || done);
      if (performance.now() - told < 100) return;
      told = performance.now();
      this.hub.tell(projectId, { type: 'job', job: { ...job } });
    };
    try {
      // What a person waits for does not wait for the row; its end is written all the same.
      if (!atOnce) await this.database.update(jobs).set(job).where(eq(jobs.id, job.id));
      await work({ id: job.id, signal: stop.signal, progress });
      job.state = 'done';
      job.done = job.total;
    } catch (error) {
      if (error instanceof CancelledError || stop.signal.aborted) {
        job.state = this.closing ? 'interrupted' : 'cancelled';
      } else {
        job.state = 'failed';
        const sentence = sentenceOf(error);
        job.error = sentence ?? 'Something went wrong on the server; its log says what.';
        if (sentence === null) log.error({ err: error, job: job.id }, 'job failed');
      }
    }
    await this.settle(entry);
    this.running.delete(job.id);
    this.beginNext();
  }

  private async settle({ job, projectId, end, onCancelled }: Entry): Promise<void> {
    const failed = (error: Error): void => log.error({ err: error, job: job.id }, 'job not stored');
    // A full disk must not keep a job from ending; the next start of the server then calls it interrupted.
    if (job.state === 'cancelled') await onCancelled?.().catch(failed);
    await this.database.update(jobs).set(job).where(eq(jobs.id, job.id)).catch(failed);
    this.hub.tell(projectId, { type: 'job', job: { ...job } });
    end();
  }

  /** Calls a job off; it ends soon after. Returns false when it is not running. */
  cancel(id: string): boolean {
    const found = this.running.get(id);
    found?.stop.abort();
    const queued = this.waiting.find(({ job }) => job.id === id);
    if (queued) this.drop(queued, 'cancelled');
    return found !== undefined || queued !== undefined;
  }

  private drop(entry: Entry, state: 'cancelled' | 'interrupted'): void {
    this.waiting.splice(this.waiting.indexOf(entry), 1);
    entry.job.state = state;
    void this.settle(entry);
  }

  async cancelAllOf(clipId: string): Promise<void> {
    const queued = this.waiting.filter(({ job }) => job.clipId === clipId);
    queued.forEach((entry) => this.drop(entry, 'cancelled'));
    const own = [...this.running.values()].filter(({ job }) => job.clipId === clipId).concat(queued);
    own.forEach(({ stop }) => stop.abort());
    await Promise.all(own.map(({ ended }) => ended));
  }

  /** Resolves with how a job ended, once it has. */
  async whenEnded(id: string): Promise<JobView> {
    const entry = this.entry(id);
    await entry?.ended;
    const job = entry?.job ?? (await this.find(id));
    if (!job) throw new NotFoundException('There is no such job.');
    return job;
  }

  /** The latest jobs of some kinds in a project, the newest first. */
  async ofProject(projectId: string, kinds: JobKind[]): Promise<JobView[]> {
    const rows = await this.database
      .select({ job: jobs })
      .from(jobs)
      .innerJoin(clips, eq(clips.id, jobs.clipId))
      .where(and(eq(clips.projectId, projectId), inArray(jobs.kind, kinds), isNull(clips.removedAt)))
      .orderBy(desc(jobs.startedAt))
      .limit(100);
    return rows.map(({ job: { request: _, ...row } }) => ({ ...(this.live(row.id) ?? row) }));
  }

  /** The clip's latest jobs, running ones as they stand. */
  async ofClip(clipId: string): Promise<JobView[]> {
    const rows = await this.database
      .select()
      .from(jobs)
      .where(eq(jobs.clipId, clipId))
      .orderBy(desc(jobs.startedAt))
      .limit(20);
    return rows.map(({ request: _, ...row }) => ({ ...(this.live(row.id) ?? row) }));
  }

  /** What was asked for when a job of a kind was started last in a project. */
  async lastRequest(projectId: string, kind: JobKind): Promise<object | null> {
    const [row] = await this.database
      .select({ request: jobs.request })
      .from(jobs)
      .innerJoin(clips, eq(clips.id, jobs.clipId))
      .where(and(eq(clips.projectId, projectId), eq(jobs.kind, kind)))
      .orderBy(desc(jobs.startedAt))
      .limit(1);
    return row?.request ?? null;
  }

  /** Forgets a job that has ended. */
  async forget(id: string): Promise<void> {
    if (this.live(id)) throw new ConflictException('This job is still going on.');
    const job = await this.find(id);
    if (!job) throw new NotFoundException('There is no such job.');
    await this.database.delete(jobs).where(eq(jobs.id, id));
    this.hub.tell(job.projectId, { type: 'job-gone', id });
  }

  private entry(id: string): Entry | undefined {
    return this.running.get(id) ?? this.waiting.find(({ job }) => job.id === id);
  }

  private live(id: string): JobView | undefined {
    return this.entry(id)?.job;
  }

  async find(id: string): Promise<(JobView & { projectId: string; request: object | null }) | null> {
    const [row] = await this.database
      .select({ job: jobs, projectId: clips.projectId })
      .from(jobs)
      .innerJoin(clips, eq(clips.id, jobs.clipId))
      .where(eq(jobs.id, id));
    if (!row) return null;
    const { request, ...kept } = row.job;
    return { ...(this.live(id) ?? kept), projectId: row.projectId, request };
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    [...this.waiting].forEach((entry) => this.drop(entry, 'interrupted'));
    const all = [...this.running.values()];
    all.forEach(({ stop }) => stop.abort());
    await Promise.all(all.map(({ ended }) => ended));
    await Promise.all([this.pool.close(), this.atHand.close()]);
    this.database.$client.close();
  }
}
