import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { HttpException, Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { ClipCard, SequenceRequest, UnfinishedUpload } from '@lurn/contract';
import { FileConfigstore, FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import type { Request, Response } from 'express';
import { ClipFiles } from '../clips/clip-files.js';
import { ReadingService } from '../clips/reading.service.js';
import { PackageService } from '../projects/package.service.js';
import { insufficientStorage } from '../failure.filter.js';
import { log } from '../log.js';

/** What an upload is for: a clip, one picture of a sequence, a missing original, a whole project. */
const purposes = ['clip', 'picture', 'original', 'project'] as const;
type Purpose = (typeof purposes)[number];

const uploadPath = '/api/uploads';
/** Beside the file itself its proxy must fit, and a little more. */
const spare = 1.1;
const leastFree = 200e6;
/** Unfinished uploads are kept for a week. */
const patience = 7 * 24 * 3600e3;

const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Resumable uploads by the tus protocol: whatever breaks, what has arrived stays. */
@Injectable()
export class UploadsService {
  private readonly store: FileStore;
  private readonly server: Server;

  constructor(
    private readonly files: ClipFiles,
    private readonly reading: ReadingService,
    private readonly packages: PackageService,
  ) {
    const directory = files.uploads;
    this.store = new FileStore({
      directory,
      expirationPeriodInMilliseconds: patience,
      configstore: new FileConfigstore(directory),
    });
    this.server = new Server({
      path: uploadPath,
      datastore: this.store,
      relativeLocation: true,
      allowedOrigins: [],
      onUploadCreate: (_, upload) => this.told(() => this.admit(upload)),
      onUploadFinish: (_, upload) => this.told(() => this.finish(upload)),
      onResponseError: (_, error) => {
        if (error instanceof Error && !('status_code' in error)) log.error({ err: error }, 'upload failed');
        return undefined;
      },
    });
  }

  takes = (request: Request): boolean =>
    request.path === uploadPath || request.path.startsWith(`${uploadPath}/`);

  handle(request: Request, response: Response): Promise<void> {
    return this.server.handle(request, response);
  }

  /** Uploads that had arrived whole when the server ended are taken in; old unfinished ones thrown away. */
  async resume(): Promise<void> {
    await this.store.deleteExpired();
    for (const upload of await this.all()) {
      if (upload.offset !== upload.size) continue;
      if (purposeOf(upload) === 'picture') {
        // A picture waits for the others of its set, though not for ever.
        if (Date.now() - Date.parse(upload.creation_date ?? '') > patience) await this.forget(upload.id);
        continue;
      }
      await this.finish(upload).catch((error: Error) =>
        log.warn({ err: error, upload: upload.id }, 'An upload could not be taken in'),
      );
    }
  }

  /** What has begun and not ended, for whoever wants to go on with it. */
  async unfinished(projectId: string): Promise<UnfinishedUpload[]> {
    return (await this.all())
      .filter((upload) => upload.metadata?.project === projectId && upload.offset < (upload.size ?? 0))
      .filter((upload) => purposeOf(upload) === 'clip')
      .map(({ id, metadata, offset, size }) => ({
        id,
        name: metadata?.filename ?? '',
        done: offset,
        bytes: size ?? 0,
      }));
  }

  /** Makes one clip of pictures that have been uploaded one by one. */
  async sequence(projectId: string, { name, rate, uploads }: SequenceRequest): Promise<ClipCard> {
    // The clip's id comes from its first picture's: asked for twice, after a break in between, it is one clip.
    const clipId = asUuid(uploads[0]);
    const known = await this.reading.taken(clipId);
    if (known) return known;
    const pictures = await Promise.all(
      uploads.map(async (id) => {
        const upload = await this.store.getUpload(id).catch(() => null);
        if (!upload || purposeOf(upload) !== 'picture' || upload.offset !== upload.size)
          throw new NotFoundException('One of the pictures has not been uploaded.');
        return { name: upload.metadata?.filename ?? id, path: join(this.files.uploads, id) };
      }),
    );
    const card = await this.reading.takePictures(projectId, name, rate, pictures, clipId);
    for (const id of uploads) await this.forget(id);
    return card;
  }

  private async admit(upload: Upload): Promise<object> {
    const { metadata, size } = upload;
    const name = metadata?.filename;
    if (!size || !name || name.length > 255)
      throw new UnprocessableEntityException('An upload needs a name and a size.');
    const purpose = purposeOf(upload);
    const target = purpose === 'original' ? metadata.clip : metadata.project;
    if (purpose !== 'project' && !uuid.test(target ?? ''))
      throw new UnprocessableEntityException('An upload must say what it belongs to.');
    const free = await this.files.free();
    if (free < size * spare + leastFree) {
      throw new HttpException(
        `"${name}" needs ${gigabytes(size * spare)}, and only ${gigabytes(free)} are free on the server's disk.`,
        insufficientStorage,
      );
    }
    return {};
  }

  /** Takes in what has arrived. It is forgotten once it is stored, or refused; after any other failure it stays. */
  private async finish(upload: Upload): Promise<object> {
    try {
      const answer = await this.takeIn(upload);
      if (purposeOf(upload) !== 'picture') await this.forget(upload.id);
      return answer;
    } catch (error) {
      if (error instanceof HttpException) await this.forget(upload.id);
      throw error;
    }
  }

  private async takeIn(upload: Upload): Promise<object> {
    const { id, metadata, size } = upload;
    const file = { path: join(this.files.uploads, id), name: metadata?.filename ?? id, bytes: size ?? 0 };
    switch (purposeOf(upload)) {
      case 'picture':
        return {};
      case 'original':
        await this.reading.replace(metadata?.clip ?? '', file);
        return {};
      case 'project': {
        const project = await this.packages.read(file.path);
        return { headers: { 'x-lurn-project': project.id } };
      }
      case 'clip': {
        const { project, rate } = metadata ?? {};
        // The clip's id comes from the upload's: taken in twice, after a break in between, it is one clip.
        await this.reading.take(project ?? '', file, rate ?? undefined, asUuid(id));
        return {};
      }
    }
  }

  /** Refusals in words that reach the page. */
  private async told<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (!(error instanceof HttpException)) throw error;
      // The protocol's library takes what is thrown for an answer when it has these fields.
      throw Object.assign(new Error(error.message), { status_code: error.getStatus(), body: error.message });
    }
  }

  private async all(): Promise<Upload[]> {
    const names = (await readdir(this.files.uploads)).filter((name) => name.endsWith('.json'));
    const found = await Promise.all(
      names.map((name) => this.store.getUpload(name.replace(/\.json$/, '')).catch(() => null)),
    );
    return found.filter((upload) => upload !== null);
  }

  private async forget(id: string): Promise<void> {
    await this.store.configstore.delete(id).catch(() => undefined);
    await rm(join(this.files.uploads, id), { force: true });
  }
}

const asUuid = (id: string): string => id.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12}).*$/, '$1-$2-$3-$4-$5');

function purposeOf({ metadata }: Upload): Purpose {
  const found = purposes.find((purpose) => purpose === (metadata?.purpose ?? 'clip'));
  if (!found) throw new UnprocessableEntityException('An upload must say what it is for.');
  return found;
}

const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(bytes < 1e10 ? 1 : 0)} GB`;
