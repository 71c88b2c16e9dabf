import { randomUUID } from 'node:crypto';
import { copyFile, link, mkdir, rm, stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { Inject, Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import { SteadyView, TrackPatch, type ProjectView, type TrackView } from '@lurn/contract';
import { formatFrameRate, pageLength } from '@lurn/core';
import { MediaError, type Clip } from '@lurn/media';
import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { eq } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { ClipFiles } from '../clips/clip-files.js';
import { ClipsService, type ClipRow } from '../clips/clips.service.js';
import { ReadingService, freshSteady } from '../clips/reading.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { clips, pages, projects, tracks } from '../database/schema.js';
import { whole } from '../tracks/track-defaults.js';
import { ProjectsService } from './projects.service.js';
import { eachEntry } from './zip-file.js';

/** Bytes of one page of samples, and of the page number before it. */
const pageBytes = pageLength * 29;
const numberBytes = 4;
const mostJson = 50e6;
const mostSamples = 200e6;

/** `project.json` of a package, see docs/formats.md. */
interface PackageFile {
  format: 'lurn-project';
  version: 1;
  name: string;
  clips: {
    id: string;
    name: string;
    bytes: number;
    frames: number;
    media: Clip;
    frameRate: string;
    steady: SteadyView;
    tracks: TrackView[];
    /** Where in the zip the original lies; null when it was left out. */
    original: string | null;
  }[];
}

/** Projects as one open file: JSON, packed samples, and the originals if wanted. */
@Injectable()
export class PackageService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly projects: ProjectsService,
    private readonly clips: ClipsService,
    private readonly reading: ReadingService,
    private readonly files: ClipFiles,
  ) {}

  /** The project as a zip that is written while it is read. */
  async write(projectId: string, withMedia: boolean): Promise<{ name: string; stream: Readable }> {
    const project = await this.projects.view(projectId);
    const zip = new ZipFile();
    const all: PackageFile['clips'] = [];
    for (const card of project.clips) {
      const row = await this.clips.row(card.id);
      if (row.state !== 'ready') continue;
      const own = await this.clips.tracksOf(row.id);
      const path = this.clips.mediaOf(row).path;
      const there = withMedia && (await stat(path).catch(() => null)) !== null;
      const original = there ? `media/${row.id}` : null;
      for (const track of own) {
        const packed = await this.pagesOf(track.id);
        zip.addBuffer(packed, `samples/${track.id}`);
      }
      if (original) zip.addFile(path, original, { compress: false });
      const { id, name, bytes, frames, media, steady } = row;
      all.push({
        ...{ id, name, bytes, frames, media, steady, tracks: own, original },
        frameRate: formatFrameRate(media.frameRate),
      });
    }
    const file: PackageFile = { format: 'lurn-project', version: 1, name: project.name, clips: all };
    zip.addBuffer(Buffer.from(JSON.stringify(file, null, 1)), 'project.json');
    zip.end();
    return { name: project.name, stream: zip.outputStream as Readable };
  }

  /** Makes a project of a package, all of it or nothing. */
  async read(path: string): Promise<ProjectView> {
    const folder = this.files.scratch();
    await mkdir(folder, { recursive: true });
    const media = new Map<string, string>();
    const samples = new Map<string, Buffer>();
    let text: Buffer | null = null;
    try {
      await eachEntry(path, async ({ name, bytes, save, read }) => {
        if (name === 'project.json' && bytes < mostJson) text = await read();
        else if (name.startsWith('samples/') && bytes < mostSamples) samples.set(name, await read());
        else if (name.startsWith('media/')) {
          const place = `${folder}/${media.size}`;
          await save(place);
          media.set(name, place);
        }
      });
      const file = await parsed(text);
      return await this.store(file, samples, media);
    } catch (error) {
      throw error instanceof MediaError ? new UnprocessableEntityException(error.message) : error;
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** A second project with all of the first; originals are shared, not copied, where the disk can. */
  async duplicate(projectId: string): Promise<ProjectView> {
    const [project] = await this.database.select().from(projects).where(eq(projects.id, projectId));
    if (!project || project.removedAt) throw new NotFoundException('There is no such project.');
    const copy = await this.projects.create(`${project.name.slice(0, 110)}, copy`);
    const rows = await this.projects.clipRows(projectId);
    for (const row of rows) {
      const id = randomUUID();
      await mkdir(this.files.folder(id), { recursive: true });
      for (const place of [this.files.original, this.files.proxy, this.files.poster]) {
        const from = place(row.id);
        if (await stat(from).catch(() => null))
          await link(from, place(id)).catch(() => copyFile(from, place(id)));
      }
      await this.database.insert(clips).values({ ...row, id, projectId: copy.id, revision: 0 });
      for (const track of await this.clips.tracksOf(row.id)) {
        const trackId = randomUUID();
        await this.database
          .insert(tracks)
          .values({ id: trackId, clipId: id, view: { ...track, id: trackId, clipId: id } });
        const own = await this.database.select().from(pages).where(eq(pages.trackId, track.id));
        if (own.length > 0)
          await this.database.insert(pages).values(own.map((page) => ({ ...page, trackId })));
      }
    }
    return this.projects.view(copy.id);
  }

  private async pagesOf(trackId: string): Promise<Buffer> {
    const own = await this.database.select().from(pages).where(eq(pages.trackId, trackId));
    return Buffer.concat(
      own.flatMap(({ page, bytes }) => {
        const number = Buffer.alloc(numberBytes);
        number.writeUInt32LE(page);
        return [number, bytes];
      }),
    );
  }

  private async store(
    file: PackageFile,
    samples: ReadonlyMap<string, Buffer>,
    media: ReadonlyMap<string, string>,
  ): Promise<ProjectView> {
    const { id } = await this.projects.create(file.name);
    // It counts as deleted until it is whole: should the server end meanwhile, it is cleared away.
    await this.projects.remove(id);
    try {
      for (const clip of file.clips) await this.storeClip(id, clip, samples, media);
    } catch (error) {
      await this.projects.erase(id);
      throw error;
    }
    return this.projects.restore(id);
  }

  private async storeClip(
    projectId: string,
    clip: PackageFile['clips'][number],
    samples: ReadonlyMap<string, Buffer>,
    media: ReadonlyMap<string, string>,
  ): Promise<void> {
    const id = randomUUID();
    const row: ClipRow = {
      ...{ id, projectId, name: clip.name, bytes: clip.bytes, frames: clip.frames },
      ...{ state: 'failed', timeBase: null, pts: null, key: null, revision: 0 },
      ...{ removedAt: null, outside: null, createdAt: new Date().toISOString() },
      error: `"${clip.name}" came without its file. Add the file, and go on where it was left.`,
      media: facts(clip.media),
      steady: fits(clip) ? clip.steady : freshSteady(clip.frames),
    };
    await this.database.insert(clips).values(row);
    for (const track of clip.tracks) {
      const trackId = randomUUID();
      const view = { ...whole(track), id: trackId, clipId: id };
      await this.database.insert(tracks).values({ id: trackId, clipId: id, view });
      const own = pagesIn(samples.get(`samples/${track.id}`), trackId, clip.frames);
      if (own.length > 0) await this.database.insert(pages).values(own);
    }
    const original = clip.original === null ? undefined : media.get(clip.original);
    if (original) await this.reading.replace(id, { path: original, name: clip.name, bytes: clip.bytes });
  }
}

const fits = ({ frames, steady: { range, referenceFrame } }: PackageFile['clips'][number]): boolean =>
  range.first <= range.last && range.last < frames && referenceFrame < frames;

function pagesIn(packed: Buffer | undefined, trackId: string, frames: number): (typeof pages.$inferInsert)[] {
  const found: (typeof pages.$inferInsert)[] = [];
  const step = numberBytes + pageBytes;
  if (!packed || packed.length % step !== 0) return found;
  for (let at = 0; at < packed.length; at += step) {
    const page = packed.readUInt32LE(at);
    if (page * pageLength < frames)
      found.push({ trackId, page, bytes: packed.subarray(at + numberBytes, at + step) });
  }
  return found;
}

/** Checks what a package says of itself as thoroughly as what a page sends. */
async function parsed(text: Buffer | null): Promise<PackageFile> {
  const wrong = new MediaError('This file is no Lurn project.');
  if (!text) throw wrong;
  let file: PackageFile;
  try {
    file = JSON.parse(text.toString()) as PackageFile;
  } catch {
    throw wrong;
  }
  if (file?.format !== 'lurn-project' || !Array.isArray(file.clips)) throw wrong;
  if (file.version !== 1) throw new MediaError('This project was written by a newer Lurn.');
  if (!isName(file.name) || file.clips.length > 1000) throw wrong;
  for (const clip of file.clips) {
    const sound =
      isName(clip?.name) &&
      Number.isInteger(clip.frames) &&
      clip.frames > 0 &&
      clip.frames <= 1e6 &&
      Array.isArray(clip.tracks) &&
      clip.tracks.length <= 5000 &&
      isMedia(clip.media);
    if (!sound || (await validate(plainToInstance(SteadyView, clip.steady))).length > 0) throw wrong;
    for (const track of clip.tracks) if (!(await isTrack(track))) throw wrong;
  }
  return file;
}

/** What can be chosen of a track is checked as when it is chosen; the rest here. */
async function isTrack(track: TrackView | undefined): Promise<boolean> {
  if (typeof track?.id !== 'string' || !Number.isInteger(track.position)) return false;
  const { name, hidden, locked, used, template, search, shape, channel, filter, fields } = track;
  const { below, threshold, longestGap, offsets } = track;
  const chosen = { name, hidden, locked, used, template, search, shape, channel, filter, fields };
  const patch = plainToInstance(TrackPatch, { ...chosen, below, threshold, longestGap });
  return (
    isName(name) &&
    (await validate(patch)).length === 0 &&
    (offsets === undefined ||
      (Array.isArray(offsets) && offsets.every((o) => [o?.frame, o?.x, o?.y].every(Number.isFinite))))
  );
}

/** What is shown of a clip before its file is there; with the file all is read anew. */
const facts = ({ width, height, frameRate, pixelAspect, codec, interlaced, asFields }: Clip): Clip => ({
  ...{ path: '', name: '', container: '', codec: String(codec), width, height, frameRate },
  ...{ pixelAspect: typeof pixelAspect === 'string' ? pixelAspect : '1:1', pixelFormat: 'yuv420p', bits: 8 },
  ...{ subsampling: '420', siting: 'left', sound: [], duration: null, pictureDuration: null, fileStart: 0 },
  ...{ interlaced: interlaced === 'top' || interlaced === 'bottom' ? interlaced : null },
  asFields: asFields === true,
  colour: { range: null, space: null, primaries: null, transfer: null },
});

const isName = (value: unknown): value is string =>
  typeof value === 'string' && value.length > 0 && value.length <= 255;

const isCount = (value: unknown): boolean =>
  Number.isInteger(value) && (value as number) > 0 && (value as number) < 1e6;

const isMedia = (media: Clip | undefined): boolean =>
  [media?.width, media?.height, media?.frameRate?.numerator, media?.frameRate?.denominator].every(isCount);
