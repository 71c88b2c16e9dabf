import { randomUUID } from 'node:crypto';
import {
  ConflictException,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import type {
  ClipChange,
  CornersRequest,
  FollowSettings,
  InterpolateRequest,
  KeyRequest,
  NewRegionRequest,
  NewTrackRequest,
  NewTracksRequest,
  PlaceRequest,
  RegionPatch,
  RegionView,
  SmoothRequest,
  SpanRequest,
  TrackPatch,
  TrackView,
} from '@lurn/contract';
import {
  carryMotion,
  faultOf,
  haveMet,
  interpolateKeys,
  joinTracks,
  modelOf,
  moveKey,
  noSample,
  pageLength,
  placeOfCorners,
  Reason,
  regionOn,
  SampleState,
  Samples,
  smoothSamples,
  startingBoxes,
  withCarriers,
  type NamedTrack,
  type Quad,
  type Size,
} from '@lurn/core';
import { followDefaults } from '@lurn/model';
import { ClipsService, type ClipRow } from '../clips/clips.service.js';
import type { Change, PageChange } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { JoiningService } from './joining.service.js';
import { pageOf, samplesColumn } from './track-record.js';

/** A change of a page of samples, but for what it was and is. */
const samplesOf = (id: string, page: number) => ({ kind: 'track', id, column: samplesColumn, page });

/** The pages that frames lie on, both ends included. */
function pagesBetween(first: number, last: number): number[] {
  const from = Math.floor(first / pageLength);
  return Array.from({ length: Math.floor(last / pageLength) - from + 1 }, (_, i) => from + i);
}

/** Pages of samples that are not empty, as if they had just come: all, or those that are asked for. */
const allPages = (id: string, samples: Samples, pages = pagesBetween(0, samples.frames - 1)): PageChange[] =>
  pages.flatMap((page) => {
    const after = pageOf(samples, page);
    return after ? [{ ...samplesOf(id, page), before: null, after }] : [];
  });

const reverse = (change: PageChange): PageChange => ({
  ...change,
  before: change.after,
  after: change.before,
});

/** What has become of pages since they were taken. */
function pagesChanged(
  id: string,
  before: readonly PageChange[],
  samples: Samples,
  pages = pagesBetween(0, samples.frames - 1),
): PageChange[] {
  return pages.flatMap((page) => {
    const then = before.find((change) => change.page === page)?.after ?? null;
    const now = pageOf(samples, page);
    return isSame(then, now) ? [] : [{ ...samplesOf(id, page), before: then, after: now }];
  });
}

/** The first track's frame is the natural one to leave alone. */
function firstReference(row: ClipRow, others: readonly TrackView[], frame: number): Change[] {
  const before = row.steady;
  if (others.length > 0 || before.referenceFrame === frame) return [];
  return [{ kind: 'steady', id: row.id, before, after: { ...before, referenceFrame: frame } }];
}

const isSame = (one: Buffer | null, other: Buffer | null): boolean =>
  one && other ? one.equals(other) : one === other;

const noSuchTrack = (): NotFoundException => new NotFoundException('There is no such track.');

@Injectable()
export class TracksService {
  constructor(
    private readonly records: RecordsService,
    private readonly clips: ClipsService,
    private readonly edits: EditsService,
    private readonly joining: JoiningService,
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

  async add(
    clipId: string,
    { frame, x, y, template, search, settings }: NewTrackRequest,
  ): Promise<ClipChange> {
    return this.place(clipId, frame, [{ x, y }], { template, search }, settings);
  }

  /** Several points at once, one step of undo. */
  async addMany(
    clipId: string,
    { frame, points, template, search, settings }: NewTracksRequest,
  ): Promise<ClipChange> {
    return this.place(clipId, frame, points, { template, search }, settings);
  }

  private place(
    clipId: string,
    frame: number,
    points: readonly PlaceRequest[],
    sizes: Partial<Pick<TrackView, 'template' | 'search'>>,
    settings: FollowSettings = {},
  ): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row, media } = await this.clips.ready(clipId);
      requireFrame(frame, row.frames);
      const others = await this.clips.tracksOf(clipId);
      const page = Math.floor(frame / pageLength);
      const all = [...others];
      const sized = startingBoxes(media, sizes);
      const changes = points.flatMap((point): Change[] => {
        const view = { ...freshTrack(clipId, all, sized), ...settings };
        all.push(view);
        const samples = new Samples(row.frames);
        placeKey(samples, frame, point);
        return [
          { kind: 'track', id: view.id, before: null, after: view },
          { ...samplesOf(view.id, page), before: null, after: pageOf(samples, page) },
        ];
      });
      changes.push(...firstReference(row, others, frame));
      const label = points.length === 1 ? 'Place track' : `Place ${points.length} tracks`;
      return this.edits.commit(clipId, label, changes);
    });
  }

  /** A flat area to be followed whole. What cannot be followed at all is refused. */
  addRegion(clipId: string, { frame, splines, quad, name, settings }: NewRegionRequest): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row, media } = await this.clips.ready(clipId);
      requireFrame(frame, row.frames);
      const region = regionOn(frame, splines, quad as unknown as Quad | undefined);
      const others = await this.clips.tracksOf(clipId);
      const fresh = freshTrack(clipId, others, startingBoxes(media, {}));
      const called = name === undefined ? freeName(others, 'Region') : nameBeside(others, name);
      const fault = faultOf(region, `"${called}"`, media);
      if (fault) throw new UnprocessableEntityException(fault);
      const track: TrackView = {
        ...fresh,
        shape: 'perspective',
        ...settings,
        name: called,
        kind: 'region',
        region: region as RegionView,
      };
      const samples = new Samples(row.frames);
      placeKey(samples, frame, region.centre);
      const page = Math.floor(frame / pageLength);
      const changes: Change[] = [
        { kind: 'track', id: track.id, before: null, after: track },
        { ...samplesOf(track.id, page), before: null, after: pageOf(samples, page) },
        ...firstReference(row, others, frame),
      ];
      return this.edits.commit(clipId, 'Draw region', changes);
    });
  }

  /** Puts a region's corners where the person says, on one frame: a key that what is followed passes through. */
  setCorners(id: string, frame: number, { corners }: CornersRequest): Promise<ClipChange> {
    const edit = async (samples: Samples, track: TrackView, clipId: string): Promise<TrackView> => {
      if (!track.region) throw new ConflictException(`"${track.name}" is no region: it has no quad.`);
      const { media } = await this.clips.ready(clipId);
      const place = placeOfCorners(track.region, corners as unknown as Quad, modelOf(track.shape), media);
      if (!place)
        throw new UnprocessableEntityException(
          `The corners of "${track.name}" must go round, upper left first, without crossing.`,
        );
      samples.set(frame, { ...place, confidence: 1, state: SampleState.placed, reason: Reason.none });
      return track;
    };
    return this.editWith([id], 'Place corners', (samples, track, clip) => edit(samples, track, clip.clipId), {
      first: frame,
      last: frame,
    });
  }

  /** Takes tracks in from elsewhere; one without a key has its first place made one, to be followed from. */
  takeIn(clipId: string, tracks: readonly NamedTrack[]): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row, media } = await this.clips.ready(clipId);
      const others = await this.clips.tracksOf(clipId);
      const all = [...others];
      const sized = startingBoxes(media, {});
      const full = tracks.flatMap(({ name, samples, region }) => {
        const first = samples.state.findIndex((_, k) => samples.found(k));
        if (first < 0) return [];
        if (samples.keys().length === 0) samples.state[first] = SampleState.placed;
        return [{ name, samples, first, region }];
      });
      if (full.length === 0) throw new UnprocessableEntityException('There is no place in it to take in.');
      // What carries hold-outs goes by its name in the file.
      const ids = new Map(full.map(({ name }) => [name, randomUUID() as string]));
      const changes = full.flatMap(({ name, samples, region }): Change[] => {
        const fresh: TrackView = {
          ...freshTrack(clipId, all, sized),
          // Of two that go by one name the last carries.
          id:
            full.findLast((one) => one.name === name)?.samples === samples
              ? (ids.get(name) as string)
              : randomUUID(),
          name: nameBeside(all, name.slice(0, 80)),
          ...(region && {
            kind: 'region',
            shape: 'perspective',
            region: withCarriers(region, (named) => ids.get(named)) as RegionView,
          }),
        };
        all.push(fresh);
        return [{ kind: 'track', id: fresh.id, before: null, after: fresh }, ...allPages(fresh.id, samples)];
      });
      changes.push(...firstReference(row, others, Math.min(...full.map(({ first }) => first))));
      return this.edits.commit(clipId, 'Take tracks in', changes);
    });
  }

  /** Tracks once more, beside what they are. */
  duplicate(ids: readonly string[]): Promise<ClipChange> {
    return this.together(ids, async (clipId, tracks) => {
      const { row } = await this.clips.ready(clipId);
      const all = await this.clips.tracksOf(clipId);
      const changes: Change[] = [];
      for (const track of tracks) {
        const { position } = freshTrack(clipId, all, track);
        const copy = {
          ...track,
          id: randomUUID(),
          position,
          name: nameBeside(all, track.name),
          locked: false,
        };
        all.push(copy);
        changes.push({ kind: 'track', id: copy.id, before: null, after: copy });
        changes.push(...allPages(copy.id, await this.clips.samples(track.id, row.frames)));
      }
      const label = tracks.length === 1 ? 'Duplicate track' : `Duplicate ${tracks.length} tracks`;
      return this.edits.commit(clipId, label, changes);
    });
  }

  /** Makes one track of several that followed the same feature piece by piece. */
  join(ids: readonly string[], into: string): Promise<ClipChange> {
    const others = ids.filter((id) => id !== into);
    if (others.length === 0)
      throw new UnprocessableEntityException('Joining needs two tracks or more of the same feature.');
    return this.together([into, ...others], async (clipId, [kept, ...rest]) => {
      [kept, ...rest].forEach((track) => this.requireOpen(track));
      const region = [kept, ...rest].find((track) => track.region);
      if (region) throw new ConflictException(`"${region.name}" is a region; only points can be joined.`);
      this.edits.requireUnlocked([into, ...others]);
      const { row } = await this.clips.ready(clipId);
      const samples = await this.clips.samples(into, row.frames);
      const before = allPages(into, samples);
      const changes: Change[] = [];
      const offsets = [...kept.offsets];
      for (const track of rest) {
        const own = await this.clips.samples(track.id, row.frames);
        // Where it looked aside for the feature the joined one does so too.
        offsets.push(...track.offsets.filter(({ frame }) => !samples.found(frame)));
        const apart = haveMet(samples, own) ? null : await this.joining.offsetBetween(kept, samples, own);
        joinTracks(samples, own, apart);
        changes.push(...allPages(track.id, own).map((page) => reverse(page)));
        changes.push({ kind: 'track', id: track.id, before: track, after: null });
      }
      // What rode on the others rides on what they have become.
      const instead = new Map(others.map((id) => [id, into]));
      changes.push(...(await this.records.lettingGo(clipId, others, instead)));
      changes.unshift(...pagesChanged(into, before, samples));
      const joined = { ...kept, offsets: offsets.sort((a, b) => a.frame - b.frame) };
      if (offsets.length > kept.offsets.length)
        changes.unshift({ kind: 'track', id: into, before: kept, after: joined });
      return this.edits.commit(clipId, 'Join tracks', changes);
    });
  }

  /** Gives tracks the motion of another, from their own keys on, where they have none yet. */
  carry(ids: readonly string[], from: string): Promise<ClipChange> {
    const others = ids.filter((id) => id !== from);
    if (others.length === 0)
      throw new UnprocessableEntityException(
        'Giving motion needs a track to give it and another to take it.',
      );
    return this.editWith(others, 'Give motion', async (samples, track, { frames, clipId }) => {
      const [giver] = await this.findAll(clipId, [from]);
      if (carryMotion(samples, await this.clips.samples(from, frames)) === 0)
        throw new ConflictException(
          `"${track.name}" has no key on a frame where "${giver.name}" was found, or nothing to fill.`,
        );
      return track;
    });
  }

  /** Smooths the tracks' own paths over a span; keys stay. */
  smooth(ids: readonly string[], { first, last, sigma }: SmoothRequest): Promise<ClipChange> {
    return this.editSamples(ids, 'Smooth path', first, last, (samples, track) => {
      smoothSamples(samples, first, last, sigma);
      return track;
    });
  }

  /** Moves a key along the lane. */
  moveKey(id: string, frame: number, to: number): Promise<ClipChange> {
    const [first, last] = [Math.min(frame, to), Math.max(frame, to)];
    return this.editSamples([id], 'Move key', first, last, (samples, track) => {
      if (samples.state[to] === SampleState.placed && to !== frame)
        throw new ConflictException(`"${track.name}" has a key on frame ${to} already.`);
      if (!moveKey(samples, frame, to) && to !== frame)
        throw new ConflictException(`"${track.name}" has no key on frame ${frame}.`);
      return {
        ...track,
        offsets: track.offsets.map((o) => (o.frame === frame ? { ...o, frame: to } : o)),
      };
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
    return this.together(ids, async (clipId, tracks) => {
      const media = patch.region && (await this.clips.ready(clipId)).media;
      if ((patch.template || patch.search) && patch.locked !== false)
        tracks.forEach((track) => this.requireOpen(track));
      const changes = tracks.map((before): Change => {
        const region = patch.region && media ? regionAfter(before, patch.region, media) : before.region;
        const after = { ...before, ...patch, ...boxes({ ...before, ...patch }), region };
        return { kind: 'track', id: before.id, before, after };
      });
      const label =
        patch.name !== undefined
          ? 'Rename track'
          : patch.template || patch.search
            ? 'Resize box'
            : patch.region
              ? 'Change region'
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
      changes.push(...(await this.records.lettingGo(clipId, ids)));
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
    return this.editWith(ids, label, (samples, track) => edit(samples, track), { first, last });
  }

  /** Edits samples and tracks; where only the frames of a span are touched, no other pages are looked at. */
  private editWith(
    ids: readonly string[],
    label: string,
    edit: (
      samples: Samples,
      track: TrackView,
      clip: { clipId: string; frames: number },
    ) => TrackView | Promise<TrackView>,
    span?: SpanRequest,
  ): Promise<ClipChange> {
    return this.together(ids, async (clipId, tracks) => {
      tracks.forEach((track) => this.requireOpen(track));
      this.edits.requireUnlocked(tracks.map(({ id }) => id));
      const { row } = await this.clips.ready(clipId);
      const { first, last } = span ?? { first: 0, last: row.frames - 1 };
      requireFrame(first, row.frames);
      requireFrame(last, row.frames);
      if (first > last)
        throw new UnprocessableEntityException(
          `Frames ${first} to ${last} are no span: the first is after the last.`,
        );
      const pages = pagesBetween(first, last);
      const changes: Change[] = [];
      for (const before of tracks) {
        const { id } = before;
        const samples = await this.clips.samples(id, row.frames);
        const kept = allPages(id, samples, pages);
        const after = await edit(samples, before, { clipId, frames: row.frames });
        changes.push(...pagesChanged(id, kept, samples, pages));
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
    name: freeName(others, 'Point'),
    kind: 'point',
    region: null,
    position,
    hidden: false,
    locked: false,
    used: true,
    offsets: [],
    accepted: [],
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

/** A region with some of it changed; refused where it could not be followed any more. */
function regionAfter(track: TrackView, patch: RegionPatch, media: Size): RegionView {
  if (!track.region) throw new ConflictException(`"${track.name}" is no region.`);
  const region = { ...track.region, ...patch } as RegionView;
  const fault = faultOf(region, `"${track.name}"`, media);
  if (fault) throw new UnprocessableEntityException(fault);
  return region;
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

function freeName(others: readonly TrackView[], word: string): string {
  const taken = new Set(others.map((t) => t.name));
  let n = 1;
  while (taken.has(`${word} ${n}`)) n++;
  return `${word} ${n}`;
}

/** A name like another that none of them has. */
function nameBeside(others: readonly TrackView[], name: string): string {
  const taken = new Set(others.map((t) => t.name));
  if (!taken.has(name)) return name;
  const stem = name.replace(/ \d+$/, '').slice(0, 74);
  let n = 2;
  while (taken.has(`${stem} ${n}`)) n++;
  return `${stem} ${n}`;
}

function requireFrame(frame: number, frames: number): void {
  if (frame < 0 || frame >= frames)
    throw new UnprocessableEntityException(
      `Frame ${frame} is outside the clip; its frames are 0 to ${frames - 1}.`,
    );
}
