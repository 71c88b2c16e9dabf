import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { SERVER_OPTIONS, type ServerOptions } from '../options.js';

/** Where files live: named by id, never by what a client sent. */
@Injectable()
export class ClipFiles {
  readonly uploads: string;
  private readonly data: string;
  private readonly clips: string;
  private readonly exports: string;
  private readonly scratches: string;
  private readonly assets: string;

  constructor(@Inject(SERVER_OPTIONS) options: ServerOptions) {
    this.data = options.data;
    this.uploads = join(options.data, 'uploads');
    this.clips = join(options.data, 'clips');
    this.exports = join(options.data, 'exports');
    this.scratches = join(options.data, 'scratch');
    this.assets = join(options.data, 'assets');
  }

  /** Makes the folders, and clears away what an earlier run was in the middle of writing. */
  async prepare(): Promise<void> {
    await rm(this.scratches, { recursive: true, force: true });
    for (const folder of [this.uploads, this.clips, this.exports, this.scratches, this.assets])
      await mkdir(folder, { recursive: true });
    for (const folder of [this.clips, this.exports]) {
      for (const name of await readdir(folder, { recursive: true }))
        if (name.endsWith('.partial')) await rm(join(folder, name), { force: true });
    }
  }

  /** The ids of all clips that have a folder. */
  stored(): Promise<string[]> {
    return readdir(this.clips);
  }

  /** Bytes that may still be written. */
  async free(): Promise<number> {
    const { bavail, bsize } = await statfs(this.data);
    return bavail * bsize;
  }

  folder = (clipId: string): string => join(this.clips, clipId);
  original = (clipId: string): string => join(this.clips, clipId, 'original');
  proxy = (clipId: string): string => join(this.clips, clipId, 'proxy.mp4');
  poster = (clipId: string): string => join(this.clips, clipId, 'poster.jpg');
  sound = (clipId: string): string => join(this.clips, clipId, 'sound.m4a');
  matte = (clipId: string): string => join(this.clips, clipId, 'matte.mp4');
  movie = (jobId: string): string => join(this.exports, `${jobId}.mp4`);
  asset = (id: string): string => join(this.assets, id);
  /** A place for what is needed for a moment; gone with the next start at the latest. */
  scratch = (): string => join(this.scratches, randomUUID());
}
