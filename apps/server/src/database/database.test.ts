import { cp, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { createClient } from '@libsql/client';
import { openDatabase } from './database.js';
import { projects } from './schema.js';

const drizzle = fileURLToPath(new URL('../../drizzle', import.meta.url));

let folder: string;
beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'lurn-database-'))));
afterAll(() => rm(folder, { recursive: true, force: true }));

const copies = async (): Promise<string[]> =>
  (await readdir(folder)).filter((name) => name.startsWith('lurn-before-'));

test('an older database is copied before it is changed, one of today is left alone', async () => {
  const first = await openDatabase(folder);
  await first.insert(projects).values({ id: 'one', name: 'Ferry', createdAt: new Date().toISOString() });
  first.$client.close();
  (await openDatabase(folder)).$client.close();
  expect(await copies()).toEqual([]);

  // The next version adds a column.
  const next = join(folder, 'next');
  await cp(drizzle, next, { recursive: true });
  const journal = JSON.parse(await readFile(join(next, 'meta/_journal.json'), 'utf8')) as {
    entries: { idx: number; when: number; tag: string; version: string; breakpoints: boolean }[];
  };
  const last = journal.entries[journal.entries.length - 1];
  journal.entries.push({ ...last, idx: last.idx + 1, when: last.when + 1, tag: 'next_column' });
  await writeFile(join(next, 'meta/_journal.json'), JSON.stringify(journal));
  await writeFile(join(next, 'next_column.sql'), "ALTER TABLE `projects` ADD `note` text DEFAULT 'none';");
  const after = await openDatabase(folder, next);
  expect((await after.$client.execute('SELECT name, note FROM projects')).rows[0].note).toBe('none');
  after.$client.close();

  const [copy] = await copies();
  const before = createClient({ url: pathToFileURL(join(folder, copy)).href });
  const { rows, columns } = await before.execute('SELECT * FROM projects');
  expect(rows[0].name).toBe('Ferry');
  expect(columns).not.toContain('note');
  before.close();
  (await openDatabase(folder, next)).$client.close();
  expect(await copies()).toHaveLength(1);
});
