import { exportMovie, type ExportOptions } from '@lurn/pipeline';
import { requireApart } from './files.js';
import { interruption } from './interruption.js';
import { Progress } from './progress.js';

/** Writes a movie, tells how far it is, and stops when it is interrupted. */
export async function writeMovie(
  title: string,
  options: Omit<ExportOptions, 'onProgress' | 'signal'>,
  say: (text: string) => void = console.log,
): Promise<void> {
  // What a recipe shows is known by now, too.
  requireApart(options.path);
  const frames = 1 + options.last - options.first;
  const progress = new Progress(title, frames);
  await exportMovie({ ...options, onProgress: progress.update, signal: interruption() }).finally(() =>
    progress.end(),
  );
  say(`${frames} frames written to ${options.path}.`);
}
