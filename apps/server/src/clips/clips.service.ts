import { randomUUID } from 'node:crypto';
import { mkdir, rename, rm } from 'node:fs/promises';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import type { ClipCard, ClipView, SteadyView, TrackView } from '@lurn/contract';
import { formatFrameRate, framesPerSecond, Samples, type NamedTrack } from '@lurn/core';
import {
  indexClip,
  makePoster,
  MediaError,
  openClip,
  proxyRate,
  proxySize,
  readStill,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { and, asc, eq, inArray } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips, pages, projects, tracks } from '../database/schema.js';
import { EditsService } from '../edits/edits.service.js';
import { EventHub } from '../events/event-hub.js';
import { JobsService } from '../jobs/jobs.service.js';
import { whole } from '../tracks/track-defaults.js';
import { ClipFiles } from './clip-files.js';

type ClipRow = typeof clips.$inferSelect;

/** A clip that can be worked on. */
export interface ReadyClip {
  row: ClipRow;
  media: Clip;
  index: ClipIndex;
}

const stillsKept = 12;

const freshSteady = (frames: number): SteadyView => ({
  mode: 'hold',
  smoothSeconds: 1,
  channels: { x: true, y: true, rotation: true, scale: true },
  referenceFrame: 0,
  range: { first: 0, last: Math.max(0, frames - 1) },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
});

@Injectable()
export class ClipsService {
  private readonly stills = new Map<string, Promise<Buffer>>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly files: ClipFiles,
    private readonly jobs: JobsService,
    private readonly edits: EditsService,
    private readonly hub: EventHub,
  ) {}

  /** Takes an uploaded file in as a clip of the project. Refuses what is not a video, with one sentence. */
  async take(projectId: string, upload: string, name: string, bytes: number): Promise<ClipCard> {
    try {
      const [project] = await this.database.select().from(projects).where(eq(projects.id, projectId));
      if (!project) throw new NotFoundException('There is no such project.');
      const media = await openClip(upload, name);
      const id = randomUUID();
      await mkdir(this.files.folder(id), { recursive: true });
      await rename(upload, this.files.original(id));
      const row: ClipRow = {
        ...{
          id,
          projectId,
          name,
          bytes,
          state: 'reading',
          error: null,
          frames: 0,
          timeBase: null,
          pts: null,
          key: null,
        },
        media: { ...media, path: '' },
        steady: freshSteady(0),
        createdAt: new Date().toISOString(),
      };
      await this.database.insert(clips).values(row);
      this.tell(row);
      await this.read(row);
      return card(row);
    } catch (error) {
      await rm(upload, { force: true });
      throw error instanceof MediaError ? new UnprocessableEntityException(error.message) : error;
    }
  }

  /** Clips whose reading was cut short by the server's end are read again. */
  async resumeReading(): Promise<void> {
    const unread = await this.database
      .select()
      .from(clips)
      .where(inArray(clips.state, ['waiting', 'reading']));
    for (const row of unread) await this.read(row);
  }

  private async read(row: ClipRow): Promise<void> {
    const media = this.mediaOf(row);
    const expected = Math.round((media.duration ?? 0) * framesPerSecond(media.frameRate));
    await this.jobs.start(
      { projectId: row.projectId, clipId: row.id, kind: 'import', total: expected },
      async ({ progress, signal }) => {
        const proxy = this.files.proxy(row.id);
        try {
          let damage: string | null = null;
          const onDamage = (sentence: string): void => void (damage = sentence);
          const index = await indexClip(media, { proxy, onProgress: progress, onDamage, signal });
          const frames = index.pts.length;
          const middle = Math.floor(frames / 2) / proxyRate(media);
          await makePoster(proxy, middle, this.files.poster(row.id));
          Object.assign(row, {
            ...{
              state: 'ready',
              error: damage,
              frames,
              timeBase: index.timeBase,
              steady: freshSteady(frames),
            },
            pts: Buffer.from(index.pts.buffer),
            key: Buffer.from(index.key.buffer),
          });
        } catch (error) {
          if (signal.aborted) throw error;
          row.state = 'failed';
          row.error = error instanceof MediaError ? error.message : `"${row.name}" could not be read.`;
          throw error;
        } finally {
          if (!signal.aborted) {
            await this.database.update(clips).set(row).where(eq(clips.id, row.id));
            this.tell(row);
          }
        }
      },
    );
  }

  async cardsOf(projectId: string): Promise<ClipCard[]> {
    const rows = await this.database
      .select()
      .from(clips)
      .where(eq(clips.projectId, projectId))
      .orderBy(asc(clips.createdAt));
    return rows.map(card);
  }

  async row(id: string): Promise<ClipRow> {
    const [row] = await this.database.select().from(clips).where(eq(clips.id, id));
    if (!row) throw new NotFoundException('There is no such clip.');
    return row;
  }

  /** The clip with its index; refuses one that is still being read or could not be. */
  async ready(id: string): Promise<ReadyClip> {
    const row = await this.row(id);
    if (row.state !== 'ready' || !row.pts || !row.key || !row.timeBase) {
      throw new ConflictException(row.error ?? `"${row.name}" is still being read; try again in a moment.`);
    }
    const pts = new Float64Array(
      row.pts.buffer.slice(row.pts.byteOffset, row.pts.byteOffset + row.pts.byteLength) as ArrayBuffer,
    );
    return {
      row,
      media: this.mediaOf(row),
      index: { timeBase: row.timeBase, pts, key: new Uint8Array(row.key) },
    };
  }

  async view(id: string): Promise<ClipView> {
    const row = await this.row(id);
    const packed = await this.database
      .select({ trackId: pages.trackId, page: pages.page, bytes: pages.bytes })
      .from(pages)
      .innerJoin(tracks, eq(tracks.id, pages.trackId))
      .where(eq(tracks.clipId, id));
    const [sound] = row.media.sound;
    return {
      ...card(row),
      codec: row.media.codec,
      sound: sound ? `${sound.codec}, ${sound.sampleRate} Hz` : null,
      proxy: proxySize(row.media),
      tracks: await this.tracksOf(id),
      pages: packed.map((p) => ({ ...p, bytes: p.bytes.toString('base64') })),
      steady: row.steady,
      history: await this.edits.history(id),
      jobs: await this.jobs.ofClip(id),
    };
  }

  /** The clip's tracks in the order of the list, without their samples. */
  async tracksOf(id: string): Promise<TrackView[]> {
    const rows = await this.database.select().from(tracks).where(eq(tracks.clipId, id));
    return rows.map((row) => whole(row.view)).sort((a, b) => a.position - b.position);
  }

  /** A track's samples; all frames empty when it has none. */
  async samples(trackId: string, frames: number): Promise<Samples> {
    const samples = new Samples(frames);
    const rows = await this.database.select().from(pages).where(eq(pages.trackId, trackId));
    for (const { page, bytes } of rows) samples.unpackPage(page, bytes);
    return samples;
  }

  /** The tracks that may be written to files or that make the motion. */
  async namedTracks(id: string, frames: number, { onlyUsed = false } = {}): Promise<NamedTrack[]> {
    const wanted = (await this.tracksOf(id)).filter((t) => t.used || !onlyUsed);
    return Promise.all(
      wanted.map(async (t) => ({ name: t.name, samples: await this.samples(t.id, frames) })),
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

  async setSteady(id: string, steady: SteadyView, label: string) {
    return this.edits.inTurn(id, async () => {
      const { row } = await this.ready(id);
      const { first, last } = steady.range;
      if (first > last || last >= row.frames || steady.referenceFrame >= row.frames) {
        throw new UnprocessableEntityException(
          `Frames must lie within 0 to ${row.frames - 1}, the first before the last.`,
        );
      }
      return this.edits.commit(id, label, [{ kind: 'steady', before: row.steady, after: steady }]);
    });
  }

  async remove(id: string): Promise<void> {
    const row = await this.row(id);
    await this.jobs.cancelAllOf(id);
    const exported = (await this.jobs.ofClip(id)).filter((job) => job.kind === 'export');
    await this.database.delete(clips).where(and(eq(clips.id, id)));
    await rm(this.files.folder(id), { recursive: true, force: true });
    for (const job of exported) await rm(this.files.movie(job.id), { force: true });
    this.hub.tell(row.projectId, { type: 'clip-removed', clipId: id });
  }

  private mediaOf = (row: ClipRow): Clip => ({ ...row.media, path: this.files.original(row.id) });

  private tell(row: ClipRow): void {
    this.hub.tell(row.projectId, { type: 'clip', clip: card(row) });
  }
}

function card(row: ClipRow): ClipCard {
  const { id, projectId, name, state, error, frames, bytes, createdAt, media } = row;
  const { width, height, pixelAspect } = media;
  return {
    id,
    projectId,
    name,
    state,
    error,
    width,
    height,
    pixelAspect,
    frameRate: formatFrameRate(media.frameRate),
    frames,
    bytes,
    createdAt,
  };
}
