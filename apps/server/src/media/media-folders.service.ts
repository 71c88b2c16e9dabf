import { readdir, realpath, stat } from 'node:fs/promises';
import { basename, join, sep } from 'node:path';
import { ConflictException, Inject, Injectable, NotFoundException } from '@nestjs/common';
import type { MediaEntry, MediaFolder } from '@lurn/contract';
import { SERVER_OPTIONS, type ServerOptions } from '../options.js';

const video = /\.(mp4|m4v|mov|mkv|webm|avi|ts|mts|m2ts|mpg|mpeg|mxf|y4m)$/i;

/** Folders that the server was started with: files in them are worked on where they lie. */
@Injectable()
export class MediaFoldersService {
  constructor(@Inject(SERVER_OPTIONS) private readonly options: ServerOptions) {}

  async list(): Promise<MediaFolder[]> {
    return Promise.all(
      this.options.media.map(async (path, index) => ({
        index,
        path,
        name: basename(path),
        there: (await stat(path).catch(() => null)) !== null,
      })),
    );
  }

  /** Folders and videos of one folder. */
  async entries(index: number, path: string): Promise<MediaEntry[]> {
    const folder = await this.place(index, path);
    const found = await readdir(folder, { withFileTypes: true });
    const entries = await Promise.all(
      found.map(async (entry): Promise<MediaEntry | null> => {
        if (entry.name.startsWith('.')) return null;
        const facts = await stat(join(folder, entry.name)).catch(() => null);
        if (facts?.isDirectory()) return { name: entry.name, kind: 'folder', bytes: 0 };
        if (!facts?.isFile() || !video.test(entry.name)) return null;
        return { name: entry.name, kind: 'file', bytes: facts.size };
      }),
    );
    return entries
      .filter((entry) => entry !== null)
      .sort((a, b) => b.kind.localeCompare(a.kind) || a.name.localeCompare(b.name, 'en', { numeric: true }));
  }

  /** Where a path within a folder lies on the disk; refuses what leads out of it, by dots or by a link. */
  async place(index: number, path: string): Promise<string> {
    const root = this.options.media[index] as string | undefined;
    if (root === undefined) throw new NotFoundException('There is no such folder.');
    const real = await realpath(root).catch(() => null);
    if (real === null) throw new ConflictException(`${root} is not there; connect its disk.`);
    const inside = path.includes('\0') ? null : await realpath(join(real, path)).catch(() => null);
    if (inside === null || (inside !== real && !inside.startsWith(real + sep)))
      throw new NotFoundException(`There is nothing at "${path.slice(0, 200)}".`);
    return inside;
  }
}
