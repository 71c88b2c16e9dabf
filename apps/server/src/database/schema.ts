import { blob, index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { ClipState, JobKind, JobState, SteadyView, TrackRunRequest, TrackView } from '@lurn/contract';
import type { Clip } from '@lurn/media';
import type { Change } from '../edits/change.js';

export const projects = sqliteTable('projects', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  createdAt: text('created_at').notNull(),
  /** Deleted, and not yet for good. */
  removedAt: text('removed_at'),
});

/** A file that is worked on where it lies, as it was when it was read. */
export interface OutsideFile {
  path: string;
  bytes: number;
  /** Milliseconds. */
  modified: number;
}

export const clips = sqliteTable(
  'clips',
  {
    id: text('id').primaryKey(),
    projectId: text('project_id')
      .notNull()
      .references(() => projects.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    state: text('state').$type<ClipState>().notNull(),
    error: text('error'),
    bytes: integer('bytes').notNull(),
    /** What the file's headers say; the path in it is set anew whenever it is read. */
    media: text('media', { mode: 'json' }).$type<Clip>().notNull(),
    frames: integer('frames').notNull(),
    timeBase: text('time_base', { mode: 'json' }).$type<{ numerator: number; denominator: number }>(),
    /** Timestamps as 64-bit floats, and key flags as bytes. */
    pts: blob('pts', { mode: 'buffer' }),
    key: blob('key', { mode: 'buffer' }),
    steady: text('steady', { mode: 'json' }).$type<SteadyView>().notNull(),
    createdAt: text('created_at').notNull(),
    /** Null where the original lies in the data folder. */
    outside: text('outside', { mode: 'json' }).$type<OutsideFile>(),
    /** Counts edits, undone ones too: who knows an older number has not seen all. */
    revision: integer('revision').notNull().default(0),
    removedAt: text('removed_at'),
  },
  (table) => [index('clips_of_project').on(table.projectId)],
);

export const tracks = sqliteTable(
  'tracks',
  {
    id: text('id').primaryKey(),
    clipId: text('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    view: text('view', { mode: 'json' }).$type<TrackView>().notNull(),
  },
  (table) => [index('tracks_of_clip').on(table.clipId)],
);

/** Samples, packed by the core, a page of frames to a row. */
export const pages = sqliteTable(
  'pages',
  {
    trackId: text('track_id')
      .notNull()
      .references(() => tracks.id, { onDelete: 'cascade' }),
    page: integer('page').notNull(),
    bytes: blob('bytes', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.trackId, table.page] })],
);

export const edits = sqliteTable(
  'edits',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    clipId: text('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    label: text('label').notNull(),
    undone: integer('undone', { mode: 'boolean' }).notNull(),
    changes: text('changes', { mode: 'json' }).$type<Change[]>().notNull(),
    /** The clip's revision that it led to, or that taking it back led to. */
    revision: integer('revision').notNull().default(0),
    /** The window that it, or taking it back, came from. */
    origin: text('origin'),
    /** Chosen by who sent it: sent twice, it is done once. */
    key: text('key'),
  },
  (table) => [index('edits_of_clip').on(table.clipId), index('edits_by_key').on(table.key)],
);

export const jobs = sqliteTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    clipId: text('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    kind: text('kind').$type<JobKind>().notNull(),
    state: text('state').$type<JobState>().notNull(),
    done: integer('done').notNull(),
    total: integer('total').notNull(),
    error: text('error'),
    startedAt: text('started_at').notNull(),
    trackIds: text('track_ids', { mode: 'json' }).$type<string[]>().notNull(),
    fileName: text('file_name'),
    /** What was asked for, so that it can be started again. */
    request: text('request', { mode: 'json' }).$type<TrackRunRequest>(),
  },
  (table) => [index('jobs_of_clip').on(table.clipId)],
);

export const settings = sqliteTable('settings', {
  name: text('name').primaryKey(),
  value: text('value', { mode: 'json' }).notNull(),
});
