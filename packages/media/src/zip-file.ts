import { createWriteStream } from 'node:fs';
import { mkdir, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { open, type Entry, type ZipFile } from 'yauzl';
import { ZipFile as NewZip } from 'yazl';
import { MediaError } from './media-error.js';
import type { PictureFile } from './pictures.js';

// Zips come from anywhere: names in them are only ever looked at, never used as paths, and what they unpack to is
// bounded.

const mostEntries = 100_000;
const mostBytes = 500e9;

export interface ZipEntry {
  name: string;
  bytes: number;
  /** Writes what the entry holds to a file. */
  save: (path: string) => Promise<void>;
  /** All of it at once; for what is small. */
  read: () => Promise<Buffer>;
}

/** Calls back for one file of a zip after another. Throws a MediaError when it is no zip or holds too much. */
export async function eachEntry(path: string, take: (entry: ZipEntry) => Promise<void>): Promise<void> {
  const zip = await openZip(path);
  try {
    let [entries, bytes] = [0, 0];
    await new Promise<void>((resolve, reject) => {
      zip.on('error', () => reject(damaged()));
      zip.on('end', resolve);
      zip.on('entry', (entry: Entry) => {
        entries++;
        bytes += entry.uncompressedSize;
        if (entries > mostEntries || bytes > mostBytes)
          return reject(new MediaError('This zip holds more than can be worked on.'));
        const isFile = !entry.fileName.endsWith('/') && !/(^|\/)(\.|__MACOSX)/.test(entry.fileName);
        const done = isFile ? take(wrapped(zip, entry)) : Promise.resolve();
        done.then(() => zip.readEntry(), reject);
      });
      zip.readEntry();
    });
  } finally {
    zip.close();
  }
}

/** Unpacks the files of a zip into a folder, under names of its own. */
export async function unzip(path: string, folder: string): Promise<PictureFile[]> {
  await mkdir(folder, { recursive: true });
  const files: PictureFile[] = [];
  await eachEntry(path, async ({ name, save }) => {
    const place = join(folder, `${files.length}`);
    await save(place);
    files.push({ name, path: place });
  });
  return files;
}

/** Puts the files of a folder, in order of their names, into a zip as they are: pictures are packed already. */
export async function zipFolder(folder: string, path: string): Promise<void> {
  const zip = new NewZip();
  for (const name of (await readdir(folder)).sort())
    zip.addFile(join(folder, name), name, { compress: false });
  zip.end();
  await pipeline(zip.outputStream, createWriteStream(path));
}

const damaged = (): MediaError => new MediaError('This zip is damaged; it cannot be unpacked.');

function openZip(path: string): Promise<ZipFile> {
  return new Promise((resolve, reject) =>
    open(path, { lazyEntries: true, autoClose: false }, (error, zip) =>
      error ? reject(damaged()) : resolve(zip),
    ),
  );
}

function wrapped(zip: ZipFile, entry: Entry): ZipEntry {
  const stream = (): Promise<NodeJS.ReadableStream> =>
    new Promise((resolve, reject) =>
      zip.openReadStream(entry, (error, readable) => (error ? reject(damaged()) : resolve(readable))),
    );
  return {
    name: entry.fileName,
    bytes: entry.uncompressedSize,
    // yauzl counts the bytes that come out and ends when there are more than were announced.
    save: async (path) =>
      pipeline(await stream(), createWriteStream(path)).catch((error: NodeJS.ErrnoException) => {
        // The system's errors have codes, a full disk say; what yauzl finds wrong has none.
        throw error.code === undefined ? damaged() : error;
      }),
    read: async () => {
      const parts: Buffer[] = [];
      for await (const part of await stream()) parts.push(part as Buffer);
      return Buffer.concat(parts);
    },
  };
}
