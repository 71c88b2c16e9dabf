import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { createClient, type Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import * as schema from './schema.js';

export const DATABASE = 'DATABASE';

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

/** Opens the database in the data folder and brings it up to date. */
export async function openDatabase(folder: string): Promise<Database> {
  await mkdir(folder, { recursive: true });
  const client = createClient({ url: pathToFileURL(join(folder, 'lurn.db')).href });
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute('PRAGMA synchronous = NORMAL');
  await client.execute('PRAGMA foreign_keys = ON');
  const database = drizzle(client, { schema });
  await migrate(database, { migrationsFolder: fileURLToPath(new URL('../../drizzle', import.meta.url)) });
  return database;
}
