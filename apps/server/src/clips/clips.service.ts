import { randomUUID } from 'node:crypto';
import { stat, rm } from 'node:fs/promises';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
  type OnApplicationBootstrap,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type {
  ClipCard,
  ClipChange,
  ClipTrouble,
  ClipView,
  KeptSteadyView,
  SceneView,
  SteadyView,
  TrackView,
} from '@lurn/contract';
import {
  durationOf,
  formatFrameRate,
  Samples,
  SceneMotions,
  type FrameTimes,
  type HeldScene,
  type BoxedTrack,
  cornersFromCentre,
} from '@lurn/core';
import {
  frameTimes,
  proxySize,
  readStill,
  writeMatte,
  writeSound,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { freshSteady } from '@lurn/model';
import { and, asc, eq, isNotNull, isNull, lt } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips } from '../database/schema.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { EventHub } from '../events/event-hub.js';
import { JobsService } from '../jobs/jobs.service.js';
import type { LayerRecord } from '../layers/layer-record.js';
import { SettingsService } from '../settings/settings.service.js';
import { motionsColumn } from '../scenes/scene-record.js';
import { samplesColumn } from '../tracks/track-record.js';
import { ClipFiles } from './clip-files.js';

export type ClipRow = typeof clips.$inferSelect;

/** A clip that can be worked on. */
export interface ReadyClip {
  row: ClipRow;
  media: Clip;
  index: ClipIndex;
  times: FrameTimes;
}

const stillsKept = 12;
/** Bytes of packed data that a clip's view brings along. */
const mostSent = 8e6;
/** Milliseconds between looks at files that are worked on where they lie. */
const lookEvery = 4000;
/** A deleted clip can be brought back for an hour. */
export const regretTime = 3600e3;

@Injectable()
export class ClipsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly stills = new Map<string, Promise<Buffer>>();
  private readonly making = new Map<string, Promise<void>>();
  private readonly troubles = new Map<string, ClipTrouble>();
  private watch: NodeJS.Timeout | undefined;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly files: ClipFiles,
    private readonly jobs: JobsService,
    private readonly edits: EditsService,
    private readonly records: RecordsService,
    private readonly hub: EventHub,
    private readonly settings: SettingsService,
  ) {}

  onApplicationBootstrap(): void {
    this.watch = setInterval(() => void this.lookAtOutside().catch(() => undefined), lookEvery);
  }

  onApplicationShutdown(): void {
    clearInterval(this.watch);
  }

  async cardsOf(projectId: string): Promise<ClipCard[]> {
    const rows = await this.database
      .select()
      .from(clips)
      .where(and(eq(clips.projectId, projectId), isNull(clips.removedAt)))
      .orderBy(asc(clips.createdAt));
    return Promise.all(rows.map(async (row) => this.card(row, await this.check(row))));
  }

  async cardOf(id: string): Promise<ClipCard> {
    const row = await this.row(id);
    return this.card(row, await this.check(row));
  }

  async row(id: string): Promise<ClipRow> {
    const [row] = await this.database
      .select()
      .from(clips)
      .where(and(eq(clips.id, id), isNull(clips.removedAt)));
    if (!row) throw new NotFoundException('There is no such clip.');
    // What was left out of it by an older version has its default.
    return { ...row, steady: { ...freshSteady(row.frames), ...row.steady } };
  }

  /** The clip with its index; refuses one that is still being read or could not be. */
  async ready(id: string): Promise<ReadyClip> {
    const row = await this.row(id);
    const index = indexIn(row);
    if (row.state !== 'ready' || !index)
      throw new ConflictException(row.error ?? `"${row.name}" is still being read; try again in a moment.`);
    const media = this.mediaOf(row);
    return { row, media, index, times: frameTimes(index, media) };
  }

  /** The same, for work on the original's pictures: its file must be there, and the one that was read. */
  async readable(id: string): Promise<ReadyClip> {
    const clip = await this.ready(id);
    const trouble = await this.check(clip.row);
    if (trouble) throw new ConflictException(spoken(clip.row, trouble));
    return clip;
  }

  async view(id: string): Promise<ClipView> {
    const row = await this.row(id);
    const isMuch = (await this.records.bytesOf(id, samplesColumn)) > mostSent;
    const tracks = await this.tracksOf(id);
    const [sound] = row.media.sound;
    const starts = timesIn(row)?.starts;
    return {
      ...this.card(row, await this.check(row)),
      codec: row.media.codec,
      sound: sound ? `${sound.codec}, ${sound.sampleRate} Hz` : null,
      proxy: proxySize(row.media),
      alpha: row.media.hasAlpha ?? false,
      times: starts ? [...starts] : null,
      tracks,
      scene: await this.sceneOf(id),
      layers: await this.layersOf(id),
      pages: isMuch
        ? []
        : (await this.records.allPages(id))
            .filter((p) => p.column === samplesColumn)
            .map((p) => ({ ...p, bytes: p.bytes.toString('base64') })),
      stale: isMuch ? tracks.map((track) => track.id) : [],
      steady: row.steady,
      kept: await this.keptOf(id),
      revision: row.revision,
      history: await this.edits.history(id),
      jobs: await this.jobs.ofClip(id),
      lastExport: await this.jobs.lastRequest(row.projectId, 'export'),
      exportPaces: await this.settings.paces(),
    };
  }

  /** The clip's tracks in the order of the list, without their samples. */
  async tracksOf(id: string): Promise<TrackView[]> {
    const all = await this.records.ofClip(id);
    return all
      .flatMap(({ kind, view }) => (kind === 'track' ? [view as TrackView] : []))
      .sort((a, b) => a.position - b.position);
  }

  /** The whole picture's motion, if it has been found. */
  async sceneOf(id: string): Promise<SceneView | null> {
    const all = await this.records.ofClip(id);
    return (all.find(({ kind }) => kind === 'scene')?.view as SceneView | undefined) ?? null;
  }

  /** What is dressed onto it, the top one first. */
  async layersOf(id: string): Promise<LayerRecord[]> {
    const all = await this.records.ofClip(id);
    return all
      .flatMap(({ kind, view }) => (kind === 'layer' ? [view as LayerRecord] : []))
      .sort((a, b) => a.position - b.position);
  }

  /** Settings that were kept by name. */
  async keptOf(id: string): Promise<KeptSteadyView[]> {
    const all = await this.records.ofClip(id);
    return all.flatMap(({ kind, view }) => (kind === 'kept-steady' ? [view as KeptSteadyView] : []));
  }

  /** What is held of the scene, if it has a say; null where it has none. */
  async heldScene(id: string): Promise<HeldScene | null> {
    const scene = await this.sceneOf(id);
    return scene?.used ? this.wholeScene(scene) : null;
  }

  /** A scene with its motions. */
  async wholeScene(scene: SceneView): Promise<HeldScene> {
    const motions = new SceneMotions(scene.shots);
    for (const { page, bytes } of await this.records.pagesOf(scene.id, motionsColumn))
      motions.unpackPage(page, bytes);
    return { shots: scene.shots, motions, choices: scene.shots };
  }

  /** A track's samples; all frames empty when it has none. */
  async samples(trackId: string, frames: number): Promise<Samples> {
    const samples = new Samples(frames);
    for (const { page, bytes } of await this.records.pagesOf(trackId, samplesColumn))
      samples.unpackPage(page, bytes);
    return samples;
  }

  /** The samples of some tracks of a clip, by id, with the corners of regions; what is none of its tracks is left out. */
  async samplesOf(clipId: string, ids: ReadonlySet<string>, frames: number): Promise<Map<string, Samples>> {
    const wanted = (await this.tracksOf(clipId)).filter(({ id }) => ids.has(id));
    const found = await Promise.all(wanted.map((track) => this.wholeSamples(track, frames)));
    return new Map(wanted.map(({ id }, i) => [id, found[i]]));
  }

  private async wholeSamples({ id, region }: TrackView, frames: number): Promise<Samples> {
    const samples = await this.samples(id, frames);
    if (region) samples.corners = cornersFromCentre(region);
    return samples;
  }

  /** The tracks that may be written to files or that make the motion. */
  async namedTracks(
    id: string,
    frames: number,
    { onlyUsed = false, ids }: { onlyUsed?: boolean; ids?: readonly string[] } = {},
  ): Promise<BoxedTrack[]> {
    const wanted = (await this.tracksOf(id)).filter(
      (t) => (t.used || !onlyUsed) && (ids?.includes(t.id) ?? true),
    );
    return Promise.all(
      wanted.map(async (track) => ({
        ...{ name: track.name, template: track.template },
        ...(track.region && { region: track.region }),
        samples: await this.wholeSamples(track, frames),
      })),
    );
  }

  /** One frame at full size, as a JPEG; the last few are kept. */
  still(clip: ReadyClip, frame: number): Promise<Buffer> {
    if (frame < 0 || frame >= clip.row.frames) {
      throw new NotFoundException(`"${clip.row.name}" has frames 0 to ${clip.row.frames - 1}.`);
    }
    const name = `${clip.row.id}/${frame}`;
    let still = this.stills.get(name);
    if (!still) {
      still = readStill(clip.media, clip.index, frame);
      still.catch(() => this.stills.delete(name));
      this.stills.set(name, still);
      if (this.stills.size > stillsKept) this.stills.delete(this.stills.keys().next().value as string);
    }
    return still;
  }

  /** A file with the clip's sound as browsers play it; made when it is first asked for. */
  sound({ row, media }: ReadyClip): Promise<string> {
    if (media.sound.length === 0) throw new NotFoundException(`"${row.name}" has no sound.`);
    return this.made(this.files.sound(row.id), (path) => writeSound(media, path));
  }

  /** How much each pixel of a clip with alpha covers, beside its proxy; made when it is first asked for. */
  matte({ row, media }: ReadyClip): Promise<string> {
    if (!media.hasAlpha) throw new NotFoundException(`"${row.name}" has no alpha.`);
    return this.made(this.files.matte(row.id), (path) => writeMatte(media, path));
  }

  /** A file that is made when it is first asked for, once. */
  private made(path: string, make: (path: string) => Promise<void>): Promise<string> {
    const making =
      this.making.get(path) ??
      stat(path)
        .then(() => undefined)
        .catch(() => make(path))
        .finally(() => this.making.delete(path));
    this.making.set(path, making);
    return making.then(() => path);
  }

  async setSteady(id: string, steady: SteadyView, label: string) {
    return this.edits.inTurn(id, async () => {
      const { row } = await this.ready(id);
      const { first, last } = steady.range;
      if (first > last || last >= row.frames || steady.referenceFrame >= row.frames) {
        throw new UnprocessableEntityException(
          `Frames must lie within 0 to ${row.frames - 1}, the first before the last.`,
        );
      }
      return this.edits.commit(id, label, [{ kind: 'steady', id, before: row.steady, after: steady }]);
    });
  }

  /** Keeps what is chosen now by a name; what was kept by that name gives way. */
  async keepSteady(clipId: string, name: string): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row } = await this.ready(clipId);
      const before = (await this.keptOf(clipId)).find((one) => one.name === name) ?? null;
      const id = before?.id ?? randomUUID();
      const after: KeptSteadyView = { id, clipId, name, steady: row.steady };
      return this.edits.commit(clipId, 'Keep settings', [{ kind: 'kept-steady', id, before, after }]);
    });
  }

  async dropSteady(clipId: string, id: string): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const before = (await this.keptOf(clipId)).find((one) => one.id === id);
      if (!before) throw new NotFoundException('There are no such settings.');
      return this.edits.commit(clipId, 'Drop settings', [{ kind: 'kept-steady', id, before, after: null }]);
    });
  }

  async rename(id: string, name: string): Promise<ClipCard> {
    const row = await this.row(id);
    await this.database.update(clips).set({ name }).where(eq(clips.id, id));
    return this.tell({ ...row, name });
  }

  /** Puts a clip away; for a while it can be brought back. */
  async remove(id: string): Promise<void> {
    const row = await this.row(id);
    await this.jobs.cancelAllOf(id);
    await this.database.update(clips).set({ removedAt: now() }).where(eq(clips.id, id));
    this.hub.tell(row.projectId, { type: 'clip-removed', clipId: id });
  }

  async restore(id: string): Promise<ClipCard> {
    await this.database.update(clips).set({ removedAt: null }).where(eq(clips.id, id));
    return this.tell(await this.row(id));
  }

  /** Deletes for good, with all files, what was put away before a time. */
  async purge(before = new Date(Date.now() - regretTime)): Promise<void> {
    const old = await this.database
      .select({ id: clips.id })
      .from(clips)
      .where(and(isNotNull(clips.removedAt), lt(clips.removedAt, before.toISOString())));
    for (const { id } of old) await this.erase(id);
  }

  /** Clears away folders whose clip was never stored, because the server ended in between. */
  async sweep(): Promise<void> {
    const known = new Set((await this.database.select({ id: clips.id }).from(clips)).map(({ id }) => id));
    for (const id of await this.files.stored())
      if (!known.has(id)) await rm(this.files.folder(id), { recursive: true, force: true });
  }

  /** Deletes a clip for good, with all files. */
  async erase(id: string): Promise<void> {
    await this.jobs.cancelAllOf(id);
    const exported = (await this.jobs.ofClip(id)).filter((job) => job.kind === 'export');
    await this.database.delete(clips).where(eq(clips.id, id));
    await rm(this.files.folder(id), { recursive: true, force: true });
    for (const job of exported) await rm(this.files.movie(job.id), { force: true });
  }

  mediaOf = (row: ClipRow): Clip => ({
    ...row.media,
    path: row.outside?.path ?? this.files.original(row.id),
  });

  /** Tells everyone who has the project open how the clip stands. */
  async tell(row: ClipRow): Promise<ClipCard> {
    const clip = this.card(row, await this.check(row));
    this.hub.tell(row.projectId, { type: 'clip', clip });
    return clip;
  }

  /** Looks whether the original is there, and is what was read. */
  private async check(row: ClipRow): Promise<ClipTrouble | null> {
    if (row.state !== 'ready') return null;
    const file = await stat(this.mediaOf(row).path).catch(() => null);
    const { outside } = row;
    const changed = outside && file && (file.size !== outside.bytes || file.mtimeMs !== outside.modified);
    const trouble = !file ? 'missing' : changed ? 'changed' : null;
    if (trouble) this.troubles.set(row.id, trouble);
    else this.troubles.delete(row.id);
    return trouble;
  }

  private async lookAtOutside(): Promise<void> {
    const rows = await this.database
      .select()
      .from(clips)
      .where(and(isNotNull(clips.outside), isNull(clips.removedAt)));
    for (const row of rows) {
      const before = this.troubles.get(row.id) ?? null;
      const trouble = await this.check(row);
      if (trouble !== before) this.hub.tell(row.projectId, { type: 'clip', clip: this.card(row, trouble) });
    }
  }

  private card(row: ClipRow, trouble: ClipTrouble | null): ClipCard {
    const { id, projectId, name, state, frames, bytes, createdAt, media, outside } = row;
    const { width, height, pixelAspect, interlaced, asFields } = media;
    const times = timesIn(row);
    return {
      id,
      projectId,
      name,
      state,
      frames,
      bytes,
      createdAt,
      width,
      height,
      pixelAspect,
      interlaced: interlaced ?? null,
      asFields: asFields ?? false,
      trouble,
      error: trouble ? spoken(row, trouble) : row.error,
      frameRate: formatFrameRate(media.frameRate),
      seconds: times ? durationOf(times) : 0,
      uneven: (times?.starts ?? null) !== null,
      outside: outside?.path ?? null,
    };
  }
}

/** What was listed of a clip's frames; null before. */
function indexIn({ pts, key, timeBase }: ClipRow): ClipIndex | null {
  if (!pts || !key || !timeBase) return null;
  const ticks = pts.buffer.slice(pts.byteOffset, pts.byteOffset + pts.byteLength) as ArrayBuffer;
  return { timeBase, pts: new Float64Array(ticks), key: new Uint8Array(key) };
}

function timesIn(row: ClipRow): FrameTimes | null {
  const index = indexIn(row);
  return index && frameTimes(index, row.media);
}

const now = (): string => new Date().toISOString();

/** What is wrong with a clip's original, and the way on. */
function spoken({ name, outside }: ClipRow, trouble: ClipTrouble): string {
  if (trouble === 'changed') return `"${name}" was changed on the disk since it was read; read it again.`;
  return outside
    ? `"${name}" is not at ${outside.path} any more. Put it back or connect its disk, and it goes on by itself.`
    : `The original of "${name}" is gone from the data folder. Add its file again; what was made of it is kept.`;
}
