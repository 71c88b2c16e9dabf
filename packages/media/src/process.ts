import { spawn, type ChildProcess, type ChildProcessByStdio } from 'node:child_process';
import type { Readable, Writable } from 'node:stream';
import { createInterface } from 'node:readline';
import { caged } from './guard.js';
import { CancelledError, MediaError } from './media-error.js';

export type MediaProcess = ChildProcessByStdio<Writable, Readable, Readable>;

/** Processes that this thread has started and not seen end. */
const running = new Set<Promise<void>>();

function seeEnd(process: ChildProcess): void {
  const ended = new Promise<void>((resolve) => {
    process.on('close', () => resolve());
    process.on('error', () => resolve());
  });
  running.add(ended);
  void ended.then(() => running.delete(ended));
}

/** Resolves when all processes that this thread has started so far have ended. */
export async function processesEnded(): Promise<void> {
  await Promise.all(running);
}

export interface RunningTool {
  process: MediaProcess;
  /** Resolves when the tool has ended well; otherwise rejects with what it complained of. */
  done: Promise<void>;
}

export interface FfmpegOptions {
  /** Hears every line that it writes to stderr. */
  onLine?: (line: string) => void;
  signal?: AbortSignal;
  /** Without a line for so many milliseconds it is taken to hang, and ended. */
  stallAfter?: number;
}

const quiet = ['-hide_banner', '-nostdin', '-nostats'];

/**
 * Starts ffmpeg. The last complaints become the error's message when it fails. An aborted `signal` ends it and
 * rejects with a CancelledError.
 */
export function startFfmpeg(
  args: readonly string[],
  { onLine, signal, stallAfter }: FfmpegOptions = {},
): RunningTool {
  const process = spawn(...caged('ffmpeg', [...quiet, ...args]), { stdio: ['pipe', 'pipe', 'pipe'] });
  seeEnd(process);
  // A closed pipe shows in the exit code; without a listener it would end us too.
  process.stdin.on('error', () => undefined);
  const complaints: string[] = [];
  let stalled = false;
  const stop = (): void => void process.kill('SIGKILL');
  const watch = stallAfter
    ? setTimeout(() => {
        stalled = true;
        stop();
      }, stallAfter)
    : undefined;
  createInterface({ input: process.stderr }).on('line', (line) => {
    watch?.refresh();
    onLine?.(line);
    if (!/Parsed_|^\s|^(Conversion failed|Input|Output|Stream|Press|frame=|video:)/.test(line))
      complaints.push(line);
    if (complaints.length > 6) complaints.shift();
  });
  if (signal?.aborted) stop();
  signal?.addEventListener('abort', stop, { once: true });
  const done = new Promise<void>((resolve, reject) => {
    process.on('error', (error: NodeJS.ErrnoException) => {
      reject(error.code === 'ENOENT' ? missing('ffmpeg') : error);
    });
    process.on('close', (code, killed) => {
      clearTimeout(watch);
      signal?.removeEventListener('abort', stop);
      if (signal?.aborted) reject(new CancelledError());
      else if (stalled) reject(new MediaError(`ffmpeg made no progress for ${(stallAfter ?? 0) / 1000} s.`));
      else if (code === noSuchCommand) reject(missing('ffmpeg'));
      else if (code === 0 && !complaints.some((line) => unwritten.test(line))) resolve();
      else reject(new MediaError(failure(code, killed, complaints)));
    });
  });
  // Whoever waits for `done` late must not find the program ended by an unhandled rejection.
  done.catch(() => undefined);
  return { process, done };
}

/** What ffmpeg says, and ends well for all that, where the end of a short Matroska file found no room. */
const unwritten = /Error writing trailer|Error closing file/;

function failure(code: number | null, killed: string | null, complaints: readonly string[]): string {
  const detail = complaints.map((line) => line.replace(/^\[[^\]]*\]\s*/, '').trim()).filter(Boolean);
  const how = killed ? `was ended by ${killed}` : `ended with code ${code}`;
  // A full disk makes for many complaints; only this one helps.
  const telling = detail.find((line) => /No space left/.test(line)) ?? detail[detail.length - 1];
  return telling ? `ffmpeg ${how}: ${telling}` : `ffmpeg ${how}.`;
}

const missing = (tool: string): MediaError =>
  new MediaError(`${tool} is not installed. On Debian: apt-get install -y --no-install-recommends ffmpeg`);

/** What `setpriv` and `prlimit` end with when the tool is not there. */
const noSuchCommand = 127;
/** Milliseconds that reading headers may take. */
const patience = 60_000;

/** Runs a tool to its end and returns what it printed. What takes longer than `timeout` milliseconds is ended. */
export function runTool(
  tool: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  { timeout = tool === 'ffprobe' ? patience : undefined }: { timeout?: number } = {},
): Promise<string> {
  return new Promise((resolve, reject) => {
    const process = spawn(...caged(tool, args), {
      stdio: ['ignore', 'pipe', 'pipe'],
      timeout,
      killSignal: 'SIGKILL',
    });
    seeEnd(process);
    let output = '';
    let errors = '';
    process.stdout.setEncoding('utf8').on('data', (text: string) => (output += text));
    process.stderr.setEncoding('utf8').on('data', (text: string) => (errors = (errors + text).slice(-2000)));
    process.on('error', (error: NodeJS.ErrnoException) => {
      reject(error.code === 'ENOENT' ? missing(tool) : error);
    });
    process.on('close', (code, killed) => {
      if (code === 0) resolve(output);
      else if (code === noSuchCommand) reject(missing(tool));
      else if (killed && timeout) reject(new MediaError(`${tool} took longer than ${timeout / 1000} s.`));
      else {
        const message = errors.trim().split('\n').pop() || `${tool} ended with code ${code}.`;
        reject(new MediaError(message, { cause: errors }));
      }
    });
  });
}

const oldestVersion = 5;

/** Throws a MediaError with the way out when ffmpeg or ffprobe is missing or older than version 5. */
export async function checkTools(): Promise<{ version: string }> {
  const [text] = await Promise.all([runTool('ffmpeg', ['-version']), runTool('ffprobe', ['-version'])]);
  const version = /version (\S+)/.exec(text)?.[1] ?? 'unknown';
  const major = Number(/^n?(\d+)/.exec(version)?.[1]);
  // Builds from a source snapshot carry no number: they are newer than what we need.
  if (Number.isFinite(major) && major < oldestVersion) {
    throw new MediaError(`ffmpeg ${version} is too old; Lurn needs version ${oldestVersion} or later.`);
  }
  return { version };
}
