import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { ZipFile } from 'yazl';
import { eachEntry, unzip } from './zip-file.js';

let folder: string;
beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'lurn-zip-'))));
afterAll(() => rm(folder, { recursive: true, force: true }));

async function zipped(name: string, files: Record<string, Buffer>): Promise<string> {
  const zip = new ZipFile();
  for (const [entry, data] of Object.entries(files)) zip.addBuffer(data, entry);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  const path = join(folder, name);
  await writeFile(path, Buffer.concat(parts));
  return path;
}

test('files are unpacked under names of our own, folders and hidden ones left out', async () => {
  const path = await zipped('a.zip', {
    'shot/2.png': Buffer.from('two'),
    'shot/10.png': Buffer.from('ten'),
    '__MACOSX/shot/._2.png': Buffer.from('not this'),
    '.hidden/x': Buffer.from('nor this'),
  });
  const into = join(folder, 'a');
  const files = await unzip(path, into);
  expect(files.map(({ name }) => name)).toEqual(['shot/2.png', 'shot/10.png']);
  expect(await Promise.all(files.map(({ path: at }) => readFile(at, 'utf8')))).toEqual(['two', 'ten']);
  expect((await readdir(into)).sort()).toEqual(['0', '1']);
});

test('a name that leads out of the folder is refused', async () => {
  const path = await zipped('b.zip', { 'aa/b.txt': Buffer.from('x') });
  // The writer would not make one: the name is changed afterwards, in the file's own two places for it.
  const bytes = await readFile(path);
  const evil = Buffer.from(bytes.toString('latin1').replaceAll('aa/b.txt', '../b.txt'), 'latin1');
  await writeFile(path, evil);
  await expect(unzip(path, join(folder, 'b'))).rejects.toThrow('This zip is damaged');
  expect(await readdir(folder)).not.toContain('b.txt');
});

test('what claims to be smaller than it is, or is cut short, is refused', async () => {
  const path = await zipped('c.zip', { 'zeros.bin': Buffer.alloc(2e6) });
  const bytes = await readFile(path);
  const whole = join(folder, 'c-cut.zip');
  await writeFile(whole, bytes.subarray(0, bytes.length - 30));
  await expect(unzip(whole, join(folder, 'c'))).rejects.toThrow('This zip is damaged');
  // The size in the central directory, as a zip bomb would have it.
  const at = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1')) + 24;
  bytes.writeUInt32LE(10, at);
  await writeFile(path, bytes);
  await expect(unzip(path, join(folder, 'c'))).rejects.toThrow('This zip is damaged');
  expect((await readFile(join(folder, 'c', '0'))).length).toBeLessThan(2e6);
});

test('what the work on an entry complains of comes through', async () => {
  const path = await zipped('d.zip', { a: Buffer.from('1'), b: Buffer.from('2') });
  const seen: string[] = [];
  const work = eachEntry(path, ({ name }) => {
    seen.push(name);
    return Promise.reject(new Error('no'));
  });
  await expect(work).rejects.toThrow('no');
  expect(seen).toEqual(['a']);
});
