import { randomUUID } from 'node:crypto';
import {
  ConflictException,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import type {
  ClipChange,
  InterpolateRequest,
  KeyRequest,
  NewTrackRequest,
  NewTracksRequest,
  PlaceRequest,
  SpanRequest,
  TrackPatch,
  TrackView,
} from '@lurn/contract';
import {
  interpolateKeys,
  noSample,
  pageLength,
  Reason,
  SampleState,
  Samples,
  startingBoxes,
} from '@lurn/core';
import { ClipsService } from '../clips/clips.service.js';
import type { Change } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { followDefaults, pageOf, samplesColumn } from './track-record.js';

/** A change of a page of samples, but for what it was and is. */
const samplesOf = (id: string, page: number) => ({ kind: 'track', id, column: samplesColumn, page });

const isSame = (one: Buffer | null, other: Buffer | null): boolean =>
  one && other ? one.equals(other) : one === other;

const noSuchTrack = (): NotFoundException => new NotFoundException('There is no such track.');

@Injectable()
export class TracksService {
  constructor(
    private readonly records: RecordsService,
    private readonly clips: ClipsService,
    private readonly edits: EditsService,
  ) {}

  async find(id: string): Promise<TrackView> {
    const [record] = await this.records.find([id]);
    if (record?.kind !== 'track') throw noSuchTrack();
    return record.view as TrackView;
  }

  /** Tracks of a clip; throws where one is another's. */
  async findAll(clipId: string, ids: readonly string[]): Promise<TrackView[]> {
    const records = await this.records.find(ids);
    const known = new Map(
      records.flatMap(({ id, kind, view }) => (kind === 'track' ? [[id, view as TrackView]] : [])),
    );
    const found = [...new Set(ids)].map((id) => {
      const track = known.get(id);
      if (!track) throw noSuchTrack();
      return track;
    });
    const stranger = found.find((track) => track.clipId !== clipId);
    if (stranger) throw new UnprocessableEntityException(`"${stranger.name}" belongs to another clip.`);
    return found;
  }

  async add(clipId: string, { frame, x, y, template, search }: NewTrackRequest): Promise<ClipChange> {
    return this.place(clipId, frame, [{ x, y }], { template, search });
  }

  /** Several points at once, one step of undo. */
  async addMany(clipId: string, { frame, points }: NewTracksRequest): Promise<ClipChange> {
    return this.place(clipId, frame, points, {});
  }

  private place(
    clipId: string,
    frame: number,
    points: readonly PlaceRequest[],
    sizes: Partial<Pick<TrackView, 'template' | 'search'>>,
  ): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row, media } = await this.clips.ready(clipId);
      requireFrame(frame, row.frames);
      const others = await this.clips.tracksOf(clipId);
      const page = Math.floor(frame / pageLength);
      const all = [...others];
      const sized = startingBoxes(media, sizes);
      const changes = points.flatMap((point): Change[] => {
        const view = freshTrack(clipId, all, sized);
        all.push(view);
        const samples = new Samples(row.frames);
        placeKey(samples, frame, point);
        return [
          { kind: 'track', id: view.id, before: null, after: view },
          { ...samplesOf(view.id, page), before: null, after: pageOf(samples, page) },
        ];
      });
      // The first track's frame is the natural one to leave alone.
      if (others.length === 0 && row.steady.referenceFrame !== frame) {
        changes.push({
          kind: 'steady',
          id: clipId,
          before: row.steady,
          after: { ...row.steady, referenceFrame: frame },
        });
      }
      const label = points.length === 1 ? 'Place track' : `Place ${points.length} tracks`;
      return this.edits.commit(clipId, label, changes);
    });
  }

  /** Does something to tracks of one clip, as they are when it is the edit's turn. */
  private async together(
    ids: readonly string[],
    edit: (clipId: string, tracks: TrackView[]) => Promise<ClipChange>,
  ): Promise<ClipChange> {
    const { clipId } = await this.find(ids[0]);
    return this.edits.inTurn(clipId, async () => edit(clipId, await this.findAll(clipId, ids)));
  }

  change(ids: readonly string[], patch: TrackPatch): Promise<ClipChange> {
    return this.together(ids, (clipId, tracks) => {
      if ((patch.template || patch.search) && patch.locked !== false)
        tracks.forEach((track) => this.requireOpen(track));
      const changes = tracks.map((before): Change => {
        const after = { ...before, ...patch, ...boxes({ ...before, ...patch }) };
        return { kind: 'track', id: before.id, before, after };
      });
      const label =
        patch.name !== undefined
          ? 'Rename track'
          : patch.template || patch.search
            ? 'Resize box'
            : 'Track options';
      return this.edits.commit(clipId, label, changes);
    });
  }

  remove(ids: readonly string[]): Promise<ClipChange> {
    return this.together(ids, async (clipId, tracks) => {
      this.edits.requireUnlocked(tracks.map(({ id }) => id));
      const { row } = await this.clips.ready(clipId);
      const changes: Change[] = [];
      for (const track of tracks) {
        const { id } = track;
        const samples = await this.clips.samples(id, row.frames);
        for (let page = 0; page < samples.pages; page++) {
          const before = pageOf(samples, page);
          if (before !== null) changes.push({ ...samplesOf(id, page), before, after: null });
        }
        changes.push({ kind: 'track', id, before: track, after: null });
      }
      const what = tracks.length === 1 ? tracks[0].name : `${tracks.length} tracks`;
      return this.edits.commit(clipId, `Delete ${what}`, changes);
    });
  }

  /**
   * Puts the track where the person says, on one frame; a hand-placed key outlives tracking. With `aside` the
   * box lies on another feature from here on, and the path stays the point's.
   */
  setKey(id: string, frame: number, { x, y, aside }: KeyRequest): Promise<ClipChange> {
    return this.editSamples(
      [id],
      aside ? 'Follow another feature' : 'Place key',
      frame,
      frame,
      (samples, track) => {
        placeKey(samples, frame, { x, y });
        if (!aside) return track;
        const others = track.offsets.filter((offset) => offset.frame !== frame);
        const none = aside.x === 0 && aside.y === 0 && !others.some((offset) => offset.frame < frame);
        const own = none ? [] : [{ frame, x: aside.x, y: aside.y }];
        return { ...track, offsets: [...others, ...own].sort((a, b) => a.frame - b.frame) };
      },
    );
  }

  /** Takes the samples of a span away, keys or not. */
  clear(ids: readonly string[], { first, last }: SpanRequest): Promise<ClipChange> {
    const label = first === last ? 'Remove sample' : 'Remove samples';
    return this.editSamples(ids, label, first, last, (samples, track) => {
      const keys = samples.keys();
      if (keys.length > 0 && keys.every((k) => k >= first && k <= last)) {
        throw new ConflictException(
          `"${track.name}" keeps at least one hand-placed key; delete the track instead.`,
        );
      }
      for (let frame = first; frame <= last; frame++) samples.clear(frame);
      return { ...track, offsets: track.offsets.filter(({ frame }) => frame < first || frame > last) };
    });
  }

  /** Fills the frames between keys by a curve: a track made by hand alone. */
  interpolate(ids: readonly string[], { how, first, last }: InterpolateRequest): Promise<ClipChange> {
    return this.editSamples(ids, 'Fill between keys', first, last, (samples, track) => {
      if (samples.keys().filter((k) => k >= first && k <= last).length < 2)
        throw new ConflictException(
          `Filling in between needs two hand-placed keys or more; "${track.name}" has fewer.`,
        );
      interpolateKeys(samples, how, first, last);
      return track;
    });
  }

  private editSamples(
    ids: readonly string[],
    label: string,
    first: number,
    last: number,
    edit: (samples: Samples, track: TrackView) => TrackView,
  ): Promise<ClipChange> {
    return this.together(ids, async (clipId, tracks) => {
      tracks.forEach((track) => this.requireOpen(track));
      this.edits.requireUnlocked(tracks.map(({ id }) => id));
      const { row } = await this.clips.ready(clipId);
      requireFrame(first, row.frames);
      requireFrame(last, row.frames);
      const pages = Array.from(
        { length: Math.floor(last / pageLength) - Math.floor(first / pageLength) + 1 },
        (_, i) => Math.floor(first / pageLength) + i,
      );
      const changes: Change[] = [];
      for (const before of tracks) {
        const { id } = before;
        const samples = await this.clips.samples(id, row.frames);
        const pagesBefore = pages.map((page) => pageOf(samples, page));
        const after = edit(samples, before);
        pages.forEach((page, i) => {
          const [then, now] = [pagesBefore[i], pageOf(samples, page)];
          if (!isSame(then, now)) changes.push({ ...samplesOf(id, page), before: then, after: now });
        });
        if (JSON.stringify(after) !== JSON.stringify(before))
          changes.push({ kind: 'track', id, before, after });
      }
      return this.edits.commit(clipId, label, changes);
    });
  }

  private requireOpen(track: TrackView): void {
    if (track.locked) throw new ConflictException(`"${track.name}" is locked; unlock it first.`);
  }
}

function freshTrack(
  clipId: string,
  others: readonly TrackView[],
  sizes: Pick<TrackView, 'template' | 'search'>,
): TrackView {
  const position = 1 + Math.max(-1, ...others.map((t) => t.position));
  const view: TrackView = {
    id: randomUUID(),
    clipId,
    name: freeName(others),
    kind: 'point',
    position,
    hidden: false,
    locked: false,
    used: true,
    offsets: [],
    ...followDefaults,
  };
  return { ...view, ...boxes(sizes) };
}

function placeKey(samples: Samples, frame: number, { x, y }: PlaceRequest): void {
  const here = samples.get(frame);
  samples.set(frame, {
    ...(here ?? noSample),
    x,
    y,
    confidence: 1,
    state: SampleState.placed,
    reason: Reason.none,
  });
}

/** The search box always holds the template box. */
function boxes({
  template,
  search,
}: Pick<TrackView, 'template' | 'search'>): Pick<TrackView, 'template' | 'search'> {
  return {
    template: { ...template },
    search: {
      width: Math.max(search.width, template.width + 8),
      height: Math.max(search.height, template.height + 8),
    },
  };
}

function freeName(others: readonly TrackView[]): string {
  const taken = new Set(others.map((t) => t.name));
  let n = 1;
  while (taken.has(`Point ${n}`)) n++;
  return `Point ${n}`;
}

function requireFrame(frame: number, frames: number): void {
  if (frame < 0 || frame >= frames)
    throw new UnprocessableEntityException(
      `Frame ${frame} is outside the clip; its frames are 0 to ${frames - 1}.`,
    );
}
