import { execFile } from 'node:child_process';
import { closeSync, openSync, readSync, rmSync } from 'node:fs';
import { mkdtemp, open, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { MediaError } from './media-error.js';

const run = promisify(execFile);

/**
 * A named pipe that raw pictures come through, read straight into where they are wanted. A child's standard output
 * comes in 64 kB pieces by way of the event loop, which at 1080p costs a tenth of a decode; this costs next to nothing.
 */
export class FramePipe {
  private readonly opening: Promise<FileHandle>;
  private gone = false;

  private constructor(
    /** Where the writer is to write to. */
    readonly path: string,
  ) {
    // Opens when the writer does; then nobody needs the name any more.
    this.opening = open(path, 'r').finally(() => this.forget());
    this.opening.catch(() => undefined);
  }

  static async make(): Promise<FramePipe> {
    const folder = await mkdtemp(join(tmpdir(), 'lurn-frames-'));
    const path = join(folder, 'pipe');
    await run('mkfifo', ['-m', '600', path]).catch((error: NodeJS.ErrnoException) => {
      rmSync(folder, { recursive: true, force: true });
      throw error.code === 'ENOENT'
        ? new MediaError('mkfifo is not installed. On Debian: apt-get install -y coreutils')
        : error;
    });
    return new FramePipe(path);
  }

  /**
   * Fills a buffer and returns how many bytes have come: fewer than it holds where the writer has ended. Waits for the
   * first of them, holding nobody up; a picture that has begun to come is written in one go, and is read in one, too.
   */
  async fill(buffer: Uint8Array): Promise<number> {
    const file = await this.opening;
    let { bytesRead: filled } = await file.read(buffer, 0, buffer.length, null);
    while (filled > 0 && filled < buffer.length) {
      const more = readSync(file.fd, buffer, filled, buffer.length - filled, null);
      if (more === 0) break;
      filled += more;
    }
    return filled;
  }

  /** To be called when the writer has ended: one that never opened the pipe would be waited for for ever. */
  writerEnded(): void {
    if (this.gone) return;
    // Opened both ways it waits for nobody, and counts as a writer until the reader is through.
    const both = openSync(this.path, 'r+');
    const through = (): void => closeSync(both);
    this.opening.then(through, through);
  }

  async close(): Promise<void> {
    this.writerEnded();
    await (await this.opening).close();
  }

  private forget(): void {
    this.gone = true;
    rmSync(dirname(this.path), { recursive: true, force: true });
  }
}
