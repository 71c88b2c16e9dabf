import { existsSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { createClient, type Client } from '@libsql/client';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { log } from '../log.js';
import * as schema from './schema.js';

export const DATABASE = 'DATABASE';

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

const migrations = fileURLToPath(new URL('../../drizzle', import.meta.url));

/** Opens the database in the data folder and brings it up to date, after a copy of what was there. */
export async function openDatabase(folder: string, migrationsFolder = migrations): Promise<Database> {
  await mkdir(folder, { recursive: true });
  const path = join(folder, 'lurn.db');
  const isNew = !existsSync(path);
  const client = createClient({ url: pathToFileURL(path).href });
  await client.execute('PRAGMA journal_mode = WAL');
  // What is said to be saved outlives a power cut, too.
  await client.execute('PRAGMA synchronous = FULL');
  await client.execute('PRAGMA foreign_keys = ON');
  const database = drizzle(client, { schema });
  if (!isNew) await keepCopy(client, folder, migrationsFolder);
  await migrate(database, { migrationsFolder });
  return database;
}

/** Copies the database beside itself where an older version of it is about to be changed. */
async function keepCopy(client: Client, folder: string, migrationsFolder: string): Promise<void> {
  const done = await client
    .execute('SELECT count(*) FROM __drizzle_migrations')
    .then(({ rows }) => Number(rows[0][0]))
    .catch(() => 0);
  if (done >= readMigrationFiles({ migrationsFolder }).length) return;
  const copy = join(folder, `lurn-before-${new Date().toISOString().replace(/[:.]/g, '-')}.db`);
  await client.execute({ sql: 'VACUUM INTO ?', args: [copy] });
  log.info({ copy }, 'The database is brought up to date; its copy is kept');
}
