import { randomUUID } from 'node:crypto';
import { copyFile, link, mkdir, rm, stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { Inject, Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { ProjectView } from '@lurn/contract';
import {
  formatFrameRate,
  joinPages,
  kindOfContent,
  pageLength,
  splitPages,
  type PackedPage as Page,
} from '@lurn/core';
import { eachEntry, MediaError, type Clip } from '@lurn/media';
import { freshSteady } from '@lurn/model';
import { eq } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { ClipFiles } from '../clips/clip-files.js';
import { ClipsService, type ClipRow } from '../clips/clips.service.js';
import { ReadingService } from '../clips/reading.service.js';

import { DATABASE, type Database } from '../database/database.js';
import { clips, projects } from '../database/schema.js';
import type { LayerRecord } from '../layers/layer-record.js';
import { AssetsService } from '../layers/assets.service.js';
import { copyOf, isRecord } from '../records/record-kind.js';
import { kindOf, recordKinds } from '../records/record-kinds.js';
import { RecordsService } from '../records/records.service.js';
import { ProjectsService } from './projects.service.js';

type PackedPage = Page<Buffer>;

const mostJson = 50e6;
const mostPages = 200e6;

/** A record in a package. */
interface PackedRecord {
  kind: string;
  id: string;
  view: object;
}

/** `project.json` of a package, see docs/formats.md. */
interface PackageFile {
  format: 'lurn-project';
  version: 2;
  name: string;
  clips: {
    id: string;
    name: string;
    bytes: number;
    frames: number;
    media: Clip;
    frameRate: string;
    /** Everything that edits may change: tracks, what is chosen about steadying. */
    records: PackedRecord[];
    /** Where in the zip the original lies; null when it was left out. */
    original: string | null;
  }[];
}

/** Packed data by its place in the zip. */
type PackedData = ReadonlyMap<string, readonly PackedPage[]>;

const placeOf = (id: string, column: string): string => `pages/${id}/${column}`;

/** Projects as one open file: JSON, packed samples, and the originals if wanted. */
@Injectable()
export class PackageService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly projects: ProjectsService,
    private readonly clips: ClipsService,
    private readonly records: RecordsService,
    private readonly reading: ReadingService,
    private readonly files: ClipFiles,
    private readonly assets: AssetsService,
  ) {}

  /** The project as a zip that is written while it is read. */
  async write(projectId: string, withMedia: boolean): Promise<{ name: string; stream: Readable }> {
    const project = await this.projects.view(projectId);
    const zip = new ZipFile();
    const all: PackageFile['clips'] = [];
    const packed = new Set<string>();
    for (const card of project.clips) {
      const row = await this.clips.row(card.id);
      if (row.state !== 'ready') continue;
      const path = this.clips.mediaOf(row).path;
      const there = withMedia && (await stat(path).catch(() => null)) !== null;
      const original = there ? `media/${row.id}` : null;
      const own = await this.recordsOf(row);
      for (const { kind, id } of own)
        for (const column of Object.keys(kindOf(kind).columns))
          zip.addBuffer(Buffer.from(joinPages(await this.records.pagesOf(id, column))), placeOf(id, column));
      for (const asset of own.flatMap(({ kind, view }) => (kind === 'layer' ? assetsOf(view) : []))) {
        const picture = this.assets.path(asset);
        if (!picture || packed.has(picture) || !(await stat(picture).catch(() => null))) continue;
        packed.add(picture);
        zip.addFile(picture, `assets/${asset}`, { compress: false });
      }
      if (original) zip.addFile(path, original, { compress: false });
      const { id, name, bytes, frames, media } = row;
      const frameRate = formatFrameRate(media.frameRate);
      all.push({ id, name, bytes, frames, media, frameRate, records: own, original });
    }
    const file: PackageFile = { format: 'lurn-project', version: 2, name: project.name, clips: all };
    zip.addBuffer(Buffer.from(JSON.stringify(file, null, 1)), 'project.json');
    zip.end();
    return { name: project.name, stream: zip.outputStream as Readable };
  }

  /** Makes a project of a package, all of it or nothing. */
  async read(path: string): Promise<ProjectView> {
    const folder = this.files.scratch();
    await mkdir(folder, { recursive: true });
    const media = new Map<string, string>();
    const data = new Map<string, readonly PackedPage[]>();
    let text: Buffer | null = null;
    try {
      await eachEntry(path, async ({ name, bytes, save, read }) => {
        if (name === 'project.json' && bytes < mostJson) text = await read();
        else if (name.startsWith('pages/') && bytes < mostPages)
          data.set(name, splitPages(await read()) ?? []);
        else if (name.startsWith('samples/') && bytes < mostPages)
          data.set(placeOf(name.slice('samples/'.length), 'samples'), firstPages(await read()));
        else if (name.startsWith('assets/')) {
          const place = this.assets.path(name.slice('assets/'.length));
          // The same id is the same picture.
          if (place && !(await stat(place).catch(() => null))) await save(place);
        } else if (name.startsWith('media/')) {
          const place = `${folder}/${media.size}`;
          await save(place);
          media.set(name, place);
        }
      });
      const file = parsed(text);
      return await this.store(file, data, media);
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
    // Layers show other clips: all have their new names before the first is stored.
    const clipIds = new Map(rows.map((row) => [row.id, randomUUID() as string]));
    for (const row of rows) {
      const id = clipIds.get(row.id) as string;
      await mkdir(this.files.folder(id), { recursive: true });
      for (const place of [this.files.original, this.files.proxy, this.files.poster]) {
        const from = place(row.id);
        if (await stat(from).catch(() => null))
          await link(from, place(id)).catch(() => copyFile(from, place(id)));
      }
      await this.database.insert(clips).values({ ...row, id, projectId: copy.id, revision: 0 });
      const own = await this.records.ofClip(row.id);
      const ids = new Map([...clipIds, ...newIds(own, id)]);
      for (const record of own) {
        const pages = await this.pagesOf(record);
        await this.insert(record, id, ids, (column) => pages.get(column) ?? []);
      }
    }
    return this.projects.view(copy.id);
  }

  /** Everything that edits may change of a clip. */
  private async recordsOf(row: ClipRow): Promise<PackedRecord[]> {
    const own = await this.records.ofClip(row.id);
    return [
      { kind: 'steady', id: row.id, view: row.steady },
      ...own.map(({ kind, id, view }) => ({ kind, id, view })),
    ];
  }

  private async pagesOf({ kind, id }: PackedRecord): Promise<Map<string, PackedPage[]>> {
    const columns = Object.keys(kindOf(kind).columns);
    return new Map(
      await Promise.all(
        columns.map(async (column) => [column, await this.records.pagesOf(id, column)] as const),
      ),
    );
  }

  /** Puts a copy of a record into a clip, under an id of its own. */
  private async insert(
    { kind, id: before, view }: PackedRecord,
    clipId: string,
    ids: ReadonlyMap<string, string>,
    pagesOf: (column: string) => readonly PackedPage[],
  ): Promise<void> {
    const own = kindOf(kind);
    const { columns, read } = own;
    const newIdOf = (id: string): string => ids.get(id) ?? id;
    const id = newIdOf(before);
    const record = this.records.put(
      { kind, id, after: copyOf(own, read(view), { id, clipId }, newIdOf) },
      clipId,
    );
    const pages = Object.keys(columns).flatMap((column) =>
      pagesOf(column).map(({ page, bytes }) => this.records.putPage(id, column, page, bytes)),
    );
    await this.records.store([record, ...pages]);
  }

  private async store(
    file: PackageFile,
    data: PackedData,
    media: ReadonlyMap<string, string>,
  ): Promise<ProjectView> {
    const { id } = await this.projects.create(file.name);
    // It counts as deleted until it is whole: should the server end meanwhile, it is cleared away.
    await this.projects.remove(id);
    try {
      // Layers show other clips: all have their new names before the first is stored.
      const clipIds = new Map(file.clips.map((clip) => [clipIdIn(clip.records), randomUUID()] as const));
      for (const clip of file.clips) await this.storeClip(id, clip, clipIds, data, media);
    } catch (error) {
      await this.projects.erase(id);
      throw error;
    }
    return this.projects.restore(id);
  }

  private async storeClip(
    projectId: string,
    clip: PackageFile['clips'][number],
    clipIds: ReadonlyMap<string, string>,
    data: PackedData,
    media: ReadonlyMap<string, string>,
  ): Promise<void> {
    const id = clipIds.get(clipIdIn(clip.records)) ?? randomUUID();
    const row: ClipRow = {
      id,
      projectId,
      name: clip.name,
      bytes: clip.bytes,
      frames: clip.frames,
      state: 'failed',
      timeBase: null,
      pts: null,
      key: null,
      revision: 0,
      removedAt: null,
      outside: null,
      createdAt: new Date().toISOString(),
      error: `"${clip.name}" came without its file. Add the file, and go on where it was left.`,
      media: facts(clip.media),
      steady: freshSteady(clip.frames),
    };
    await this.database.insert(clips).values(row);
    const ids = new Map([...clipIds, ...newIds(clip.records, id)]);
    for (const record of clip.records) {
      const kind = kindOf(record.kind);
      const { columns } = kind;
      // What was chosen for a clip of another length is left at its default.
      if (!isRecord(kind, record.view, clip.frames)) continue;
      await this.insert(record, id, ids, (column) =>
        (data.get(placeOf(record.id, column)) ?? []).filter(({ page, bytes }) =>
          columns[column].isPage(page, bytes, clip.frames),
        ),
      );
    }
    const original = clip.original === null ? undefined : media.get(clip.original);
    if (original) await this.reading.replace(id, { path: original, name: clip.name, bytes: clip.bytes });
  }
}

/** The pictures that a layer shows, or its font. */
const assetsOf = (view: object): readonly string[] => {
  const { content } = view as LayerRecord;
  return kindOfContent(content).assets?.(content) ?? [];
};

/** What a clip was called by: records that are kept with it have its name. */
const clipIdIn = (records: readonly PackedRecord[]): string =>
  records.find(({ kind }) => kindOf(kind).store)?.id ?? '';

/** The ids that records have in a clip of their own, by those that they had. */
const newIds = (records: readonly PackedRecord[], clipId: string): Map<string, string> =>
  new Map(records.map(({ kind, id }) => [id, kindOf(kind).store ? clipId : randomUUID()]));

/** Pages of samples as packages of the first version have them: all of one length, each after its number. */
function firstPages(joined: Buffer): PackedPage[] {
  const [head, length] = [4, pageLength * 29];
  if (joined.length % (head + length) !== 0) return [];
  return Array.from({ length: joined.length / (head + length) }, (_, i) => {
    const at = i * (head + length);
    return { page: joined.readUInt32LE(at), bytes: joined.subarray(at + head, at + head + length) };
  });
}

/** Checks what a package says of itself as thoroughly as what a page sends. */
function parsed(text: Buffer | null): PackageFile {
  const wrong = new MediaError('This file is no Lurn project.');
  if (!text) throw wrong;
  let file: PackageFile;
  try {
    file = JSON.parse(text.toString()) as PackageFile;
  } catch {
    throw wrong;
  }
  if (file?.format !== 'lurn-project' || !Array.isArray(file.clips)) throw wrong;
  if (![1, 2].includes(file.version)) throw new MediaError('This project was written by a newer Lurn.');
  if (!isName(file.name) || file.clips.length > 1000) throw wrong;
  const clips = file.clips.map(ofToday);
  for (const clip of clips) {
    const sound =
      isName(clip.name) &&
      Number.isInteger(clip.frames) &&
      clip.frames > 0 &&
      clip.frames <= 1e6 &&
      Array.isArray(clip.records) &&
      clip.records.length <= 5000 &&
      isMedia(clip.media);
    if (!sound) throw wrong;
    for (const { kind, view } of clip.records)
      // Whatever the clip's length.
      if (!recordKinds.has(kind) || !isRecord(kindOf(kind), view, Infinity)) throw wrong;
  }
  return { ...file, version: 2, clips };
}

/** A clip as packages of either version have it; the first had tracks and steadying apart. */
function ofToday(clip: PackageFile['clips'][number]): PackageFile['clips'][number] {
  const { tracks, steady, ...rest } = clip as typeof clip & { tracks?: unknown; steady?: object };
  if (!Array.isArray(tracks) || !steady) return rest;
  const records = (tracks as { id: string }[]).map((view) => ({ kind: 'track', id: view.id, view }));
  return { ...rest, records: [{ kind: 'steady', id: clip.id, view: steady }, ...records] };
}

/** What is shown of a clip before its file is there; with the file all is read anew. */
const facts = ({ width, height, frameRate, pixelAspect, codec, interlaced, asFields }: Clip): Clip => ({
  path: '',
  name: '',
  container: '',
  codec: String(codec),
  width,
  height,
  frameRate,
  pixelAspect: typeof pixelAspect === 'string' ? pixelAspect : '1:1',
  pixelFormat: 'yuv420p',
  bits: 8,
  subsampling: '420',
  siting: 'left',
  sound: [],
  duration: null,
  pictureDuration: null,
  fileStart: 0,
  interlaced: interlaced === 'top' || interlaced === 'bottom' ? interlaced : null,
  asFields: asFields === true,
  colour: { range: null, space: null, primaries: null, transfer: null },
});

const isName = (value: unknown): value is string =>
  typeof value === 'string' && value.length > 0 && value.length <= 255;

const isCount = (value: unknown): boolean =>
  Number.isInteger(value) && (value as number) > 0 && (value as number) < 1e6;

const isMedia = (media: Clip | undefined): boolean =>
  [media?.width, media?.height, media?.frameRate?.numerator, media?.frameRate?.denominator].every(isCount);
