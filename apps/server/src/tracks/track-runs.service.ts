import { ConflictException, Inject, Injectable, UnprocessableEntityException } from '@nestjs/common';
import type { JobView, SampleRow, TrackRunRequest, TrackView } from '@lurn/contract';
import { pageLength, Reason, type FollowOptions, type Samples } from '@lurn/core';
import { packSamples, type FoundSample, type TrackTask } from '@lurn/pipeline';
import { ClipsService, type ReadyClip } from '../clips/clips.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { pages } from '../database/schema.js';
import type { Change } from '../edits/change.js';
import { EditsService } from '../edits/edits.service.js';
import { EventHub } from '../events/event-hub.js';
import { JobsService, type JobHandle } from '../jobs/jobs.service.js';
import { packed, TracksService } from './tracks.service.js';

interface Followed {
  track: TrackView;
  samples: Samples;
  /** Pages as they were before the run, for undo. */
  before: (string | null)[];
  touched: Set<number>;
}

/** Follows tracks through a clip in a worker, storing and telling what is found as it comes. */
@Injectable()
export class TrackRunsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly clips: ClipsService,
    private readonly tracks: TracksService,
    private readonly edits: EditsService,
    private readonly jobs: JobsService,
    private readonly hub: EventHub,
  ) {}

  async start(clipId: string, request: TrackRunRequest): Promise<JobView> {
    return this.edits.inTurn(clipId, async () => {
      const clip = await this.clips.readable(clipId);
      const { frames } = clip.row;
      if (request.from >= frames)
        throw new UnprocessableEntityException(`Frame ${request.from} is beyond the clip's end.`);
      const followed: Followed[] = [];
      for (const track of await this.tracks.findAll(clipId, request.trackIds)) {
        if (track.locked) throw new ConflictException(`"${track.name}" is locked; unlock it first.`);
        const samples = await this.clips.samples(track.id, frames);
        if (!samples.found(request.from)) {
          throw new UnprocessableEntityException(
            `"${track.name}" has no place on frame ${request.from}; put its box there first.`,
          );
        }
        if (samples.keys().length === 0) {
          throw new UnprocessableEntityException(
            `"${track.name}" has no hand-placed key to take its look from; place its box first.`,
          );
        }
        const before = Array.from({ length: samples.pages }, (_, page) => packed(samples, page));
        followed.push({ track, samples, before, touched: new Set() });
      }
      const ids = followed.map((f) => f.track.id);
      this.edits.occupy(ids);
      const task = makeTask(clip, followed, request);
      const ahead =
        request.direction === 'backwards' || request.direction === 'previous'
          ? 0
          : task.last - request.from + 1;
      const behind =
        request.direction === 'forwards' || request.direction === 'next' ? 0 : request.from - task.first + 1;
      try {
        const { projectId } = clip.row;
        return await this.jobs.start(
          {
            ...{ projectId, clipId, kind: 'track', total: ahead + behind, trackIds: ids },
            ...{ request, atOnce: task.step },
          },
          (handle) => this.follow(clip, followed, task, handle),
        );
      } catch (error) {
        this.edits.release(ids);
        throw error;
      }
    });
  }

  private async follow(
    clip: ReadyClip,
    followed: Followed[],
    task: TrackTask,
    { progress, signal }: JobHandle,
  ): Promise<void> {
    // Pages are written one batch after another, in the order the samples came.
    let stored = Promise.resolve();
    try {
      const pool = task.step ? this.jobs.atHand : this.jobs.pool;
      await pool.run(
        task,
        (news) => {
          if ('frames' in news) progress(news.frames, news.total);
          else if ('found' in news) stored = this.take(clip, followed, news.found, stored);
        },
        signal,
      );
    } finally {
      await stored;
      this.edits.release(followed.map((f) => f.track.id));
      const changes = followed.flatMap(({ track, samples, before, touched }) =>
        [...touched].map((page): Change => ({
          kind: 'page',
          trackId: track.id,
          page,
          before: before[page],
          after: packed(samples, page),
        })),
      );
      if (changes.length > 0) {
        const { id } = clip.row;
        await this.edits.inTurn(id, () => this.edits.commit(id, 'Track', changes, { applied: true }));
      }
    }
  }

  private async take(
    clip: ReadyClip,
    followed: Followed[],
    found: FoundSample[],
    before: Promise<void>,
  ): Promise<void> {
    const fresh = new Map<Followed, { rows: SampleRow[]; pages: Set<number> }>();
    for (const { run, frame, ...sample } of found) {
      const one = followed[run];
      const { x, y, confidence, rotation, scale, state, reason } = sample;
      one.samples.set(frame, sample);
      const page = Math.floor(frame / pageLength);
      one.touched.add(page);
      const entry = fresh.get(one) ?? { rows: [], pages: new Set() };
      fresh.set(one, entry);
      entry.rows.push([frame, x, y, confidence, rotation, scale, state, reason ?? Reason.none]);
      entry.pages.add(page);
    }
    const { id: clipId, projectId } = clip.row;
    for (const [{ track }, { rows }] of fresh) {
      this.hub.tell(projectId, { type: 'samples', clipId, trackId: track.id, samples: rows });
    }
    await before;
    for (const [{ track, samples }, entry] of fresh) {
      for (const page of entry.pages) {
        const bytes = Buffer.from(samples.packPage(page) as Uint8Array);
        await this.database
          .insert(pages)
          .values({ trackId: track.id, page, bytes })
          .onConflictDoUpdate({ target: [pages.trackId, pages.page], set: { bytes } });
      }
    }
  }
}

/** More tracks than this are not stepped from frames at hand: they want more than one thread. */
const mostSteps = 20;

function makeTask(
  { row, media, index }: ReadyClip,
  followed: readonly Followed[],
  { direction, from }: TrackRunRequest,
): TrackTask {
  const one = direction === 'next' || direction === 'previous';
  return {
    kind: 'track',
    clip: media,
    index,
    runs: followed.map(({ track, samples }) => ({
      samples: packSamples(samples),
      options: followOptions(track),
      offsets: track.offsets,
      from,
    })),
    direction: direction === 'next' ? 'forwards' : direction === 'previous' ? 'backwards' : direction,
    first: one ? Math.max(0, from - 1) : 0,
    last: one ? Math.min(row.frames - 1, from + 1) : row.frames - 1,
    step: one && followed.length <= mostSteps,
  };
}

/** A track's settings as the core takes them. */
export function followOptions(track: TrackView): FollowOptions {
  const { template, search, shape, channel, filter, fields, below, threshold, longestGap } = track;
  return { template, search, shape, analysis: { channel, filter, fields }, below, threshold, longestGap };
}
