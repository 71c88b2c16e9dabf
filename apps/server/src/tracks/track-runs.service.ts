import { ConflictException, Inject, Injectable, UnprocessableEntityException } from '@nestjs/common';
import type {
  JobView,
  LeftOutView,
  SampleRow,
  SpanRequest,
  TrackRunRequest,
  TrackView,
} from '@lurn/contract';
import {
  faultOf,
  pageLength,
  Reason,
  SampleState,
  type FollowOptions,
  type Sample,
  type Samples,
} from '@lurn/core';
import { packSamples, type FoundSample, type TrackTask } from '@lurn/pipeline';
import { eq } from 'drizzle-orm';
import { ClipsService, type ReadyClip } from '../clips/clips.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { scenePages } from '../database/schema.js';
import type { Change } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { EventHub } from '../events/event-hub.js';
import { log } from '../log.js';
import { JobsService, type JobHandle } from '../jobs/jobs.service.js';
import { followOptions } from './follow-options.js';
import { pageOf, samplesColumn } from './track-record.js';
import { TracksService } from './tracks.service.js';

interface Followed {
  track: TrackView;
  samples: Samples;
  /** Pages as they were before the run, for undo. */
  before: (Buffer | null)[];
  /** The only frames that may be written, where not all. */
  span: SpanRequest | null;
  /** Pages that the run has stored, as they are now. */
  stored: Map<number, Buffer>;
}

/** Follows tracks through a clip in a worker, storing and telling what is found as it comes. */
@Injectable()
export class TrackRunsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly clips: ClipsService,
    private readonly tracks: TracksService,
    private readonly records: RecordsService,
    private readonly edits: EditsService,
    private readonly jobs: JobsService,
    private readonly hub: EventHub,
  ) {
    jobs.restartWith('track', (clipId, request) => this.start(clipId, request as TrackRunRequest));
  }

  async start(clipId: string, request: TrackRunRequest): Promise<JobView> {
    return this.edits.inTurn(clipId, async () => {
      const clip = await this.clips.readable(clipId);
      const { frames } = clip.row;
      if (request.span && (request.span.first > request.span.last || request.span.last >= frames))
        throw new UnprocessableEntityException(
          `Frames ${request.span.first} to ${request.span.last} are no span of the clip; its frames are 0 to ${frames - 1}.`,
        );
      if (request.from >= frames)
        throw new UnprocessableEntityException(`Frame ${request.from} is beyond the clip's end.`);
      const followed: Followed[] = [];
      for (const track of await this.tracks.findAll(clipId, request.trackIds)) {
        if (track.locked) throw new ConflictException(`"${track.name}" is locked; unlock it first.`);
        const samples = await this.clips.samples(track.id, frames);
        if (request.span) requireBeside(track, samples, request.span);
        else if (!samples.found(request.from)) {
          throw new UnprocessableEntityException(
            `"${track.name}" has no place on frame ${request.from}; put its box there first.`,
          );
        }
        if (samples.keys().length === 0) {
          throw new UnprocessableEntityException(
            `"${track.name}" has no hand-placed key to take its look from; place its box first.`,
          );
        }
        const before = Array.from({ length: samples.pages }, (_, page) => pageOf(samples, page));
        followed.push({ track, samples, before, stored: new Map(), span: request.span ?? null });
      }
      const ids = followed.map((f) => f.track.id);
      this.edits.lock(ids);
      const options = await this.optionsOf(clip, followed);
      const task = { ...makeTask(clip, followed, options, request), scene: await this.sceneOf(clipId) };
      const ahead = task.direction === 'backwards' ? 0 : task.last - request.from + 1;
      const behind = task.direction === 'forwards' ? 0 : request.from - task.first + 1;
      const total = request.span ? task.last - task.first + 1 : ahead + behind;
      try {
        const { projectId } = clip.row;
        return await this.jobs.start(
          {
            projectId,
            clipId,
            kind: 'track',
            total,
            trackIds: ids,
            request,
            atOnce: task.step,
          },
          (handle) => this.follow(clip, followed, task, handle),
        );
      } catch (error) {
        this.edits.unlock(ids);
        throw error;
      }
    });
  }

  /** What of a region is left out on a frame, as the nearest key has it; null where it does not fit there at all. */
  async leftOut(id: string, frame: number): Promise<LeftOutView | null> {
    const track = await this.tracks.find(id);
    const clip = await this.clips.readable(track.clipId);
    if (!track.region) throw new UnprocessableEntityException(`"${track.name}" is no region.`);
    const samples = await this.clips.samples(id, clip.row.frames);
    const [key] = samples.keys().sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame));
    const place = samples.get(frame);
    if (key === undefined || !place || !samples.found(frame)) return null;
    const options = (await this.optionsOf(clip, [{ track }])).get(id);
    let found: LeftOutView | null = null;
    const task = {
      ...({ kind: 'left-out', clip: clip.media, index: clip.index } as const),
      options: options as FollowOptions,
      key: { frame: key, place: samples.place(key) },
      here: { frame, place },
    };
    await this.jobs.atHand.run(task, (news) => {
      if ('leftOut' in news && news.leftOut)
        found = {
          ...news.leftOut,
          quads: news.leftOut.quads.map((quad) => quad.flatMap(({ x, y }) => [x, y])),
        };
    });
    return found;
  }

  /** How each is followed; of regions, with what holds parts of them out where it is on each frame. */
  private async optionsOf(
    { row, media, times }: ReadyClip,
    followed: readonly Pick<Followed, 'track'>[],
  ): Promise<Map<string, FollowOptions>> {
    const { width, height, pixelAspect } = media;
    const ids = followed.flatMap(
      ({ track }) => track.region?.holdOuts.flatMap(({ trackId }) => trackId ?? []) ?? [],
    );
    const carriers = await this.clips.samplesOf(row.id, new Set(ids), row.frames);
    const options = new Map<string, FollowOptions>();
    for (const { track } of followed) {
      const fault = track.region && faultOf(track.region, `"${track.name}"`, media);
      if (fault) throw new UnprocessableEntityException(fault);
      options.set(track.id, followOptions(track, { width, height, pixelAspect, times }, carriers));
    }
    return options;
  }

  /** Whatever fails, the tracks are released, and what was stored stays and can be undone. */
  private async follow(
    clip: ReadyClip,
    followed: Followed[],
    task: TrackTask,
    { progress, signal }: JobHandle,
  ): Promise<void> {
    // What cannot be stored any more need not be looked for.
    const halt = new AbortController();
    const failures: Error[] = [];
    const scene: [page: number, bytes: Uint8Array][] = [];
    // Pages are written one batch after another, in the order the samples came.
    let storing = Promise.resolve();
    const take = (found: FoundSample[]): void => {
      const fresh = this.take(clip, followed, found);
      storing = storing
        .then(() => (failures.length === 0 ? this.store(fresh) : undefined))
        .catch((error: Error) => {
          failures.push(error);
          halt.abort();
        });
    };
    const pool = task.step ? this.jobs.atHand : this.jobs.pool;
    const [run] = await Promise.allSettled([
      pool.run(
        task,
        (news) => {
          if ('frames' in news) progress(news.frames, news.total);
          else if ('found' in news) take(news.found);
          else if ('scene' in news) scene.push(...news.scene);
        },
        { signal: AbortSignal.any([signal, halt.signal]) },
      ),
    ]);
    await storing;
    // What is known of the whole picture only saves work: where it cannot be kept it is worked out anew.
    await this.keepScene(clip.row.id, scene).catch((error: Error) =>
      log.warn({ err: error }, 'scene not kept'),
    );
    this.edits.unlock(followed.map((f) => f.track.id));
    await this.conclude(clip, followed, failures.length > 0);
    if (failures.length > 0) throw failures[0];
    if (run.status === 'rejected') throw run.reason;
  }

  private async sceneOf(clipId: string): Promise<[page: number, bytes: Uint8Array][]> {
    const kept = await this.database.select().from(scenePages).where(eq(scenePages.clipId, clipId));
    return kept.map(({ page, bytes }) => [page, bytes]);
  }

  private async keepScene(
    clipId: string,
    pages: readonly [page: number, bytes: Uint8Array][],
  ): Promise<void> {
    for (const [page, packed] of pages) {
      const bytes = Buffer.from(packed);
      await this.database
        .insert(scenePages)
        .values({ clipId, page, bytes })
        .onConflictDoUpdate({ target: [scenePages.clipId, scenePages.page], set: { bytes } });
    }
  }

  /** Makes one edit of all that a run has stored. After a failure it tells everyone how the pages stand. */
  private async conclude({ row }: ReadyClip, followed: readonly Followed[], failed: boolean): Promise<void> {
    const changes = followed.flatMap(({ track, before, stored }) =>
      [...stored].map(([page, bytes]): Change => ({
        kind: 'track',
        id: track.id,
        column: samplesColumn,
        page,
        before: before[page],
        after: bytes,
      })),
    );
    try {
      if (changes.length > 0)
        await this.edits.inTurn(row.id, () => this.edits.commit(row.id, 'Track', changes, { applied: true }));
    } finally {
      // Samples were told that are not stored.
      if (failed) this.hub.tell(row.projectId, { type: 'reset' });
    }
  }

  /** Takes samples in and tells of them. Returns the pages that have changed. */
  private take(clip: ReadyClip, followed: Followed[], found: FoundSample[]): Map<Followed, Set<number>> {
    const fresh = new Map<Followed, { rows: SampleRow[]; pages: Set<number> }>();
    for (const { run, frame, ...sample } of found) {
      const one = followed[run];
      if (one.span && (frame < one.span.first || frame > one.span.last)) continue;
      one.samples.set(frame, sample);
      const entry = fresh.get(one) ?? { rows: [], pages: new Set() };
      fresh.set(one, entry);
      entry.rows.push(rowOf(frame, sample));
      entry.pages.add(Math.floor(frame / pageLength));
    }
    const { id: clipId, projectId } = clip.row;
    for (const [{ track }, { rows }] of fresh)
      this.hub.tell(projectId, { type: 'samples', clipId, trackId: track.id, samples: rows });
    return new Map([...fresh].map(([one, { pages: touched }]) => [one, touched]));
  }

  private async store(fresh: ReadonlyMap<Followed, ReadonlySet<number>>): Promise<void> {
    for (const [{ track, samples, stored }, touched] of fresh)
      for (const page of touched) {
        const bytes = Buffer.from(samples.packPage(page) as Uint8Array);
        await this.records.store([this.records.putPage(track.id, samplesColumn, page, bytes)]);
        stored.set(page, bytes);
      }
  }
}

const rowOf = (frame: number, s: Sample): SampleRow => [
  ...([frame, s.x, s.y, s.confidence, s.rotation, s.scale, s.state, s.reason ?? Reason.none] as const),
  ...([s.stretch ?? 0, s.shear ?? 0, s.tiltX ?? 0, s.tiltY ?? 0] as const),
];

/** More tracks than this are not stepped from frames at hand: they want more than one thread. */
const mostSteps = 20;

function makeTask(
  { row, media, index }: ReadyClip,
  followed: readonly Followed[],
  options: ReadonlyMap<string, FollowOptions>,
  { direction, from, span }: TrackRunRequest,
): TrackTask {
  const one = direction === 'next' || direction === 'previous';
  const common = { kind: 'track' as const, clip: media, index };
  const run = ({ track, samples }: Followed, start: number) => ({
    samples: packSamples(samples),
    options: options.get(track.id) as FollowOptions,
    offsets: track.offsets,
    from: start,
  });
  if (span)
    return {
      ...common,
      runs: followed.map((each) => {
        const start = each.samples.found(span.first - 1) ? span.first - 1 : span.last + 1;
        return run({ ...each, samples: pinned(each.samples, span) }, start);
      }),
      direction: 'both',
      first: Math.max(0, span.first - 1),
      last: Math.min(row.frames - 1, span.last + 1),
      step: false,
    };
  return {
    ...common,
    runs: followed.map((each) => run(each, from)),
    direction: direction === 'next' ? 'forwards' : direction === 'previous' ? 'backwards' : direction,
    first: one ? Math.max(0, from - 1) : 0,
    last: one ? Math.min(row.frames - 1, from + 1) : row.frames - 1,
    step: one && followed.length <= mostSteps,
  };
}

/** Samples whose places on either side of a span stand as firm as keys, so that what is followed between meets both. */
function pinned(samples: Samples, { first, last }: SpanRequest): Samples {
  const copy = samples.copy();
  if (samples.found(first - 1) && samples.found(last + 1)) copy.state[last + 1] = SampleState.placed;
  for (let frame = first; frame <= last; frame++)
    if (copy.state[frame] !== SampleState.placed) copy.clear(frame);
  return copy;
}

function requireBeside(track: TrackView, samples: Samples, { first, last }: SpanRequest): void {
  const at = (frame: number): boolean => frame >= 0 && frame < samples.frames && samples.found(frame);
  if (!at(first - 1) && !at(last + 1))
    throw new UnprocessableEntityException(
      `"${track.name}" has no place beside frames ${first} to ${last} to go on from; put its box there first.`,
    );
}
