import { readdirSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import { UsageError } from './usage-error.js';

// Whatever a command reads it never writes over, by whatever name or link the file goes.

/** Device and node of what has been read, with the name that it was given by. */
const read = new Map<string, string>();

const nodeOf = (path: string): { mark: string; isFolder: boolean } | null => {
  try {
    const found = statSync(path);
    return { mark: `${found.dev}:${found.ino}`, isFolder: found.isDirectory() };
  } catch {
    return null;
  }
};

/** Says that a file is read, where it is there: what opens it says otherwise. */
export function noteInput(path: string): void {
  const found = nodeOf(path);
  if (found) read.set(found.mark, path);
}

/** Says that a file is read; refuses one that is not there. */
export function requireInput(path: string): void {
  if (!nodeOf(path)) throw new UsageError(`There is no file "${path}".`);
  noteInput(path);
}

/** Refuses to write over what is read; over another file, too, unless it is said that it may be. */
export function requireOutput(path: string, { force = false } = {}): void {
  const folder = dirname(path);
  if (!nodeOf(folder)?.isFolder)
    throw new UsageError(`There is no folder "${folder}" to write "${path}" to.`);
  requireApart(path);
  const there = nodeOf(path);
  if (!there) return;
  if (there.isFolder ? readdirSync(path).length === 0 : force) return;
  throw new UsageError(
    there.isFolder
      ? `"${path}" is a folder with something in it: choose another.`
      : `"${path}" is there already: --force replaces it.`,
  );
}

/** Refuses to write over what has been read so far. */
export function requireApart(path: string): void {
  const own = read.get(nodeOf(path)?.mark ?? '');
  if (own !== undefined)
    throw new UsageError(`"${path}" is "${own}", which is read: choose another file to write to.`);
}
