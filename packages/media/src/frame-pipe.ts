import { execFile } from 'node:child_process';
import { closeSync, openSync, readSync, rmSync } from 'node:fs';
import { mkdtemp, open, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { MediaError } from './media-error.js';

const run = promisify(execFile);

/** What begins a stream, up to the end of the line, and what begins each of its pictures. */
const streamMark = 'YUV4MPEG2 ';
const pictureMark = 'FRAME\n';

/**
 * A named pipe that pictures come through as YUV4MPEG2, read straight into where they are wanted. A child's standard
 * output comes in 64 kB pieces by way of the event loop, which at 1080p costs a tenth of a decode; this costs next to
 * nothing. The format's writer hands on the rows of a picture as they lie: that of raw video copies them first.
 */
export class FramePipe {
  private readonly opening: Promise<FileHandle>;
  private readonly mark = new Uint8Array(pictureMark.length);
  private begun = false;
  private gone = false;

  private constructor(
    /** Where the writer is to write to. */
    readonly path: string,
    private readonly isMarked: boolean,
  ) {
    // Opens when the writer does; then nobody needs the name any more.
    this.opening = open(path, 'r').finally(() => this.forget());
    this.opening.catch(() => undefined);
  }

  /** Of pictures that are `marked` as YUV4MPEG2 marks them, or else follow each other bare. */
  static async make(isMarked = true): Promise<FramePipe> {
    const folder = await mkdtemp(join(tmpdir(), 'lurn-frames-'));
    const path = join(folder, 'pipe');
    await run('mkfifo', ['-m', '600', path]).catch((error: NodeJS.ErrnoException) => {
      rmSync(folder, { recursive: true, force: true });
      throw error.code === 'ENOENT'
        ? new MediaError('mkfifo is not installed. On Debian: apt-get install -y coreutils')
        : error;
    });
    return new FramePipe(path, isMarked);
  }

  /**
   * Fills a buffer with a picture and returns how many of its bytes have come: null where no further picture begins,
   * fewer than the buffer holds where the writer has ended within it. Waits for the first byte, holding nobody up; a
   * picture that has begun to come is written in one go, and is read in one, too.
   */
  async fill(buffer: Uint8Array): Promise<number | null> {
    const file = await this.opening;
    if (!this.isMarked) {
      const { bytesRead } = await file.read(buffer, 0, buffer.length, null);
      return bytesRead === 0 ? null : readOn(file, buffer, bytesRead);
    }
    if (!this.begun) await this.begin(file);
    const { mark } = this;
    const { bytesRead } = await file.read(mark, 0, mark.length, null);
    if (bytesRead === 0 || readOn(file, mark, bytesRead) < mark.length) return null;
    if (!isText(mark, pictureMark)) throw new Error('What comes through the pipe is no YUV4MPEG2 picture.');
    return readOn(file, buffer, 0);
  }

  /** Reads the line that the stream begins with; what it says of the pictures is known. */
  private async begin(file: FileHandle): Promise<void> {
    this.begun = true;
    const start = new Uint8Array(streamMark.length);
    const { bytesRead } = await file.read(start, 0, start.length, null);
    if (bytesRead === 0 || readOn(file, start, bytesRead) < start.length) return;
    if (!isText(start, streamMark)) throw new Error('What comes through the pipe is no YUV4MPEG2.');
    const letter = start.subarray(0, 1);
    while (readSync(file.fd, letter) === 1 && !isText(letter, '\n'));
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

/** Reads until the buffer is full or the writer has ended; returns how much of it is filled then. */
function readOn({ fd }: FileHandle, buffer: Uint8Array, filled: number): number {
  while (filled < buffer.length) {
    const more = readSync(fd, buffer, filled, buffer.length - filled, null);
    if (more === 0) break;
    filled += more;
  }
  return filled;
}

const isText = (bytes: Uint8Array, text: string): boolean => Buffer.from(bytes).toString('latin1') === text;
