import { rename, rm } from 'node:fs/promises';

/** Has a file written that is there only once it is whole: nothing is left at `path` when that fails. */
export async function writeWhole(path: string, write: (partial: string) => Promise<unknown>): Promise<void> {
  const partial = `${path}.partial`;
  try {
    await write(partial);
    await rename(partial, path);
  } finally {
    await rm(partial, { force: true });
  }
}
