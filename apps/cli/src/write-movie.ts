import { exportMovie, type ExportOptions } from '@lurn/pipeline';
import { Progress } from './progress.js';

/** Writes a movie, tells how far it is, and stops on Ctrl+C. */
export async function writeMovie(
  title: string,
  options: Omit<ExportOptions, 'onProgress' | 'signal'>,
  say: (text: string) => void = console.log,
): Promise<void> {
  const frames = 1 + options.last - options.first;
  const progress = new Progress(title, frames);
  const calledOff = new AbortController();
  process.once('SIGINT', () => calledOff.abort());
  await exportMovie({ ...options, onProgress: progress.update, signal: calledOff.signal }).finally(() =>
    progress.end(),
  );
  say(`${frames} frames written to ${options.path}.`);
}
