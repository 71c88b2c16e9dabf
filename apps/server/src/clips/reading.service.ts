import { randomUUID } from 'node:crypto';
import { copyFile, link, mkdir, open, rm, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import type { ClipCard } from '@lurn/contract';
import { framesPerSecond, parseFrameRate } from '@lurn/core';
import {
  indexClip,
  joinPictures,
  makePoster,
  MediaError,
  openClip,
  proxyRate,
  type Clip,
  type PictureFile,
  unzip,
} from '@lurn/media';
import { freshSteady } from '@lurn/model';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { clips, projects, type OutsideFile, scenePages } from '../database/schema.js';
import { JobsService } from '../jobs/jobs.service.js';
import { ClipFiles } from './clip-files.js';
import { ClipsService, type ClipRow } from './clips.service.js';
import { EarlyFrames } from './early-frames.js';

/** A file that has come in, and the name it came under. */
export interface Incoming {
  path: string;
  name: string;
  bytes: number;
}

/** Takes files in as clips, and reads them: index, proxy, poster. */
@Injectable()
export class ReadingService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly files: ClipFiles,
    private readonly clips: ClipsService,
    private readonly jobs: JobsService,
    private readonly early: EarlyFrames,
  ) {
    jobs.restartWith('import', (clipId) => this.again(clipId));
  }

  /**
   * A video, or a zip of pictures that are shown at `rate`. Refuses what is neither, with one sentence. The file is
   * left where it is: until the clip is stored nothing may be lost, and taking it in again under the same id does
   * no harm.
   */
  async take(projectId: string, file: Incoming, rate?: string, id: string = randomUUID()): Promise<void> {
    try {
      await this.requireProject(projectId);
      if (await this.isTaken(id)) return;
      if (await isZip(file.path)) await this.takeZip(projectId, file, rate, id);
      else await this.add(projectId, id, file);
    } catch (error) {
      throw refusal(error);
    }
  }

  /** Single pictures as one clip. */
  async takePictures(
    projectId: string,
    name: string,
    rate: string,
    pictures: PictureFile[],
    id: string,
  ): Promise<ClipCard> {
    const joined = this.files.scratch();
    try {
      await this.requireProject(projectId);
      const missing = await joinPictures(pictures, readRate(rate), joined);
      const { size: bytes } = await stat(joined);
      return await this.add(projectId, id, { path: joined, name, bytes }, missing);
    } catch (error) {
      throw refusal(error);
    } finally {
      await rm(joined, { force: true });
    }
  }

  /** A file that stays where it lies. */
  async takeOutside(projectId: string, path: string): Promise<ClipCard> {
    try {
      await this.requireProject(projectId);
      const { size: bytes, mtimeMs: modified } = await stat(path);
      const name = basename(path);
      return await this.insert(projectId, randomUUID(), await openClip(path, name), {
        name,
        bytes,
        outside: { path, bytes, modified },
      });
    } catch (error) {
      throw refusal(error);
    }
  }

  /** Reads a clip once more: after it failed or was changed, or to take its fields apart or together. */
  async again(id: string, asFields?: boolean): Promise<ClipCard> {
    const row = await this.clips.row(id);
    if (row.state === 'reading') throw new ConflictException(`"${row.name}" is being read just now.`);
    const fields = asFields ?? row.media.asFields;
    const differs = fields !== row.media.asFields;
    if (differs && row.media.interlaced === null)
      throw new UnprocessableEntityException(`"${row.name}" is not interlaced.`);
    if (differs && (await this.clips.tracksOf(id)).length > 0)
      throw new ConflictException('Its frames would be counted anew: delete its tracks first.');
    try {
      const { path } = this.clips.mediaOf(row);
      const media = await openClip(path, row.name, { asFields: fields });
      return await this.reopen(differs ? { ...row, frames: 0 } : row, media);
    } catch (error) {
      throw refusal(error);
    }
  }

  /** Puts a file in the place of a clip's original, missing or not; what was made of it is kept. It must be as large and as long. */
  async replace(id: string, file: Incoming): Promise<ClipCard> {
    try {
      const row = await this.clips.row(id);
      const media = await openClip(file.path, row.name, { asFields: row.media.asFields });
      if (media.width !== row.media.width || media.height !== row.media.height)
        throw new UnprocessableEntityException(
          `"${file.name}" has ${media.width}×${media.height} pixels, "${row.name}" ${row.media.width}×${row.media.height}: it is another clip.`,
        );
      const length = row.frames > 0 ? (await indexClip(media)).pts.length : 0;
      if (length !== row.frames)
        throw new UnprocessableEntityException(
          `"${file.name}" has ${length} frames, "${row.name}" ${row.frames}: it is another clip.`,
        );
      await mkdir(this.files.folder(id), { recursive: true });
      await rm(this.files.sound(id), { force: true });
      await place(file.path, this.files.original(id));
      return await this.reopen({ ...row, outside: null }, { ...media, path: this.files.original(id) });
    } catch (error) {
      throw refusal(error);
    }
  }

  /** Clips whose reading was cut short by the server's end are read again. */
  async resume(): Promise<void> {
    const unread = await this.database
      .select()
      .from(clips)
      .where(and(inArray(clips.state, ['waiting', 'reading']), isNull(clips.removedAt)));
    for (const row of unread) await this.read(row);
  }

  /** Reads a clip anew from the file that `media` tells of. */
  private async reopen(row: ClipRow, media: Clip): Promise<ClipCard> {
    const { path } = media;
    const { size: bytes, mtimeMs: modified } = await stat(path);
    const next: ClipRow = {
      ...row,
      state: 'reading',
      error: null,
      media: { ...media, path: '' },
      bytes,
      outside: row.outside && { path, bytes, modified },
    };
    await this.database.update(clips).set(next).where(eq(clips.id, row.id));
    return this.begin(next);
  }

  /** Tells of a clip that has come in, and begins to read it. */
  private async begin(row: ClipRow): Promise<ClipCard> {
    const card = await this.clips.tell(row);
    await this.read(row);
    return card;
  }

  private async takeZip(
    projectId: string,
    file: Incoming,
    rate: string | undefined,
    id: string,
  ): Promise<void> {
    if (rate === undefined)
      throw new UnprocessableEntityException('A zip of pictures needs a rate, like 25 or 24000/1001.');
    const folder = this.files.scratch();
    try {
      const pictures = await unzip(file.path, folder);
      await this.takePictures(projectId, file.name.replace(/\.zip$/i, ''), rate, pictures, id);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  private async add(
    projectId: string,
    id: string,
    file: Incoming,
    error: string | null = null,
  ): Promise<ClipCard> {
    const media = await openClip(file.path, file.name);
    await mkdir(this.files.folder(id), { recursive: true });
    await place(file.path, this.files.original(id));
    return this.insert(projectId, id, media, { name: file.name, bytes: file.bytes, error });
  }

  private async insert(
    projectId: string,
    id: string,
    media: Clip,
    facts: { name: string; bytes: number; outside?: OutsideFile; error?: string | null },
  ): Promise<ClipCard> {
    const row: ClipRow = {
      id,
      projectId,
      state: 'reading',
      frames: 0,
      timeBase: null,
      pts: null,
      key: null,
      media: { ...media, path: '' },
      steady: freshSteady(0),
      createdAt: new Date().toISOString(),
      revision: 0,
      removedAt: null,
      outside: null,
      error: null,
      ...facts,
    };
    await this.database.insert(clips).values(row);
    return this.begin(row);
  }

  private async read(row: ClipRow): Promise<void> {
    const media = this.clips.mediaOf(row);
    const expected = row.frames || Math.round((media.duration ?? 0) * framesPerSecond(media.frameRate));
    const before = row.frames;
    await this.jobs.start(
      {
        projectId: row.projectId,
        clipId: row.id,
        kind: 'import',
        total: expected,
        onCancelled: () => this.calledOff(row),
      },
      async ({ progress, signal }) => {
        const proxy = this.files.proxy(row.id);
        await mkdir(this.files.folder(row.id), { recursive: true });
        const builder = this.early.begin(row.id, media);
        try {
          let damage: string | null = row.error;
          const onDamage = (sentence: string): void => void (damage = sentence);
          // What was known of another file's pictures does not hold for this one's.
          await this.database.delete(scenePages).where(eq(scenePages.clipId, row.id));
          const index = await indexClip(media, { proxy, onProgress: progress, builder, onDamage, signal });
          const frames = index.pts.length;
          if (before > 0 && frames !== before && (await this.clips.tracksOf(row.id)).length > 0)
            throw new MediaError(
              `"${row.name}" has ${frames} frames now and had ${before}; its tracks do not fit it any more. Put the old file back, or delete the clip.`,
            );
          const middle = Math.floor(frames / 2) / proxyRate(media);
          await makePoster(proxy, middle, this.files.poster(row.id), media.pixelAspect);
          Object.assign(row, {
            state: 'ready',
            error: damage,
            frames,
            timeBase: index.timeBase,
            steady: frames === before ? row.steady : freshSteady(frames),
            pts: Buffer.from(index.pts.buffer),
            key: Buffer.from(index.key.buffer),
          });
        } catch (error) {
          if (signal.aborted) throw error;
          row.state = 'failed';
          row.error =
            error instanceof MediaError ? reason(error, row.name) : `"${row.name}" could not be read.`;
          throw error;
        } finally {
          this.early.end(row.id);
          if (!signal.aborted) {
            const { state, error, frames, timeBase, steady, pts, key } = row;
            const result = { state, error, frames, timeBase, steady, pts, key };
            await this.database.update(clips).set(result).where(eq(clips.id, row.id));
            await this.clips.tell(row);
          }
        }
      },
    );
  }

  private async calledOff(row: ClipRow): Promise<void> {
    Object.assign(row, {
      state: 'failed',
      error: `Reading "${row.name}" was called off; read it again to go on.`,
    });
    const { state, error } = row;
    await this.database.update(clips).set({ state, error }).where(eq(clips.id, row.id));
    await this.clips.tell(row);
  }

  /** The clip of this id, if it is there already. */
  async taken(id: string): Promise<ClipCard | null> {
    return (await this.isTaken(id)) ? this.clips.cardOf(id) : null;
  }

  private async isTaken(id: string): Promise<boolean> {
    const found = await this.database.select({ id: clips.id }).from(clips).where(eq(clips.id, id));
    return found.length > 0;
  }

  private async requireProject(id: string): Promise<void> {
    const [project] = await this.database.select().from(projects).where(eq(projects.id, id));
    if (!project || project.removedAt) throw new NotFoundException('There is no such project.');
  }
}

/** Puts a file in a second place as well, without copying it where the disk can. */
async function place(from: string, to: string): Promise<void> {
  await rm(to, { force: true });
  await link(from, to).catch(() => copyFile(from, to));
}

const refusal = (error: unknown): unknown =>
  error instanceof MediaError ? new UnprocessableEntityException(error.message) : error;

/** Why reading broke off, with the way on. */
function reason({ message }: MediaError, name: string): string {
  if (/No space left/.test(message)) return 'The disk is full. Free some space, then read the clip again.';
  if (/was ended by/.test(message)) return `Reading "${name}" was broken off from outside; read it again.`;
  return message;
}

function readRate(text: string) {
  try {
    return parseFrameRate(text);
  } catch {
    throw new UnprocessableEntityException(`"${text}" is no rate; write 25 or 24000/1001.`);
  }
}

async function isZip(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { buffer } = await file.read(Buffer.alloc(4), 0, 4, 0);
    return buffer.toString('latin1') === 'PK\x03\x04';
  } finally {
    await file.close();
  }
}
