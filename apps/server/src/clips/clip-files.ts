import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { SERVER_OPTIONS, type ServerOptions } from '../options.js';

/** Where files live: named by id, never by what a client sent. */
@Injectable()
export class ClipFiles {
  readonly uploads: string;
  private readonly clips: string;
  private readonly exports: string;

  constructor(@Inject(SERVER_OPTIONS) options: ServerOptions) {
    this.uploads = join(options.data, 'uploads');
    this.clips = join(options.data, 'clips');
    this.exports = join(options.data, 'exports');
  }

  /** Makes the folders; uploads that an earlier run left half-done are thrown away. */
  async prepare(): Promise<void> {
    await rm(this.uploads, { recursive: true, force: true });
    for (const folder of [this.uploads, this.clips, this.exports]) await mkdir(folder, { recursive: true });
  }

  folder = (clipId: string): string => join(this.clips, clipId);
  original = (clipId: string): string => join(this.clips, clipId, 'original');
  proxy = (clipId: string): string => join(this.clips, clipId, 'proxy.mp4');
  poster = (clipId: string): string => join(this.clips, clipId, 'poster.jpg');
  movie = (jobId: string): string => join(this.exports, `${jobId}.mp4`);
}
