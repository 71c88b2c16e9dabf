import { blob, index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { ClipState, JobKind, JobState, SteadyView } from '@lurn/contract';
import type { Clip } from '@lurn/media';
import type { RecordChange, Touch } from '../records/change.js';

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

/** Things that edits change, of any kind; what differs by kind stands in `records/record-kinds.ts`. */
export const records = sqliteTable(
  'records',
  {
    id: text('id').primaryKey(),
    clipId: text('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    kind: text('kind').notNull(),
    view: text('view', { mode: 'json' }).$type<object>().notNull(),
  },
  (table) => [index('records_of_clip').on(table.clipId)],
);

/** Packed data of records, a page to a row. */
export const recordPages = sqliteTable(
  'record_pages',
  {
    recordId: text('record_id')
      .notNull()
      .references(() => records.id, { onDelete: 'cascade' }),
    column: text('column_name').notNull(),
    page: integer('page').notNull(),
    bytes: blob('bytes', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.recordId, table.column, table.page] })],
);

/** How the whole picture of a clip moves, as far as it is known, a page of frames to a row. */
export const scenePages = sqliteTable(
  'scene_pages',
  {
    clipId: text('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    page: integer('page').notNull(),
    bytes: blob('bytes', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.clipId, table.page] })],
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
    /** Of whole records; packed data lies in `edit_pages`. */
    changes: text('changes', { mode: 'json' }).$type<RecordChange[]>().notNull(),
    /** What it touches; null in edits of the first version, until they are brought up to date. */
    touches: text('touches', { mode: 'json' }).$type<Touch[]>(),
    /** What it takes up, with its pages. */
    bytes: integer('bytes').notNull().default(0),
    /** The clip's revision that it led to, or that taking it back led to. */
    revision: integer('revision').notNull().default(0),
    /** The window that it, or taking it back, came from. */
    origin: text('origin'),
    /** Chosen by who sent it: sent twice, it is done once. */
    key: text('key'),
  },
  (table) => [index('edits_of_clip').on(table.clipId), index('edits_by_key').on(table.key)],
);

/** Pages as they were before an edit, or, once it is taken back, as they were after it. */
export const editPages = sqliteTable(
  'edit_pages',
  {
    editId: integer('edit_id')
      .notNull()
      .references(() => edits.id, { onDelete: 'cascade' }),
    recordId: text('record_id').notNull(),
    column: text('column_name').notNull(),
    page: integer('page').notNull(),
    /** Null for an empty page. */
    bytes: blob('bytes', { mode: 'buffer' }),
    /** Holds what is there now while the two change places. */
    other: blob('other', { mode: 'buffer' }),
  },
  (table) => [primaryKey({ columns: [table.editId, table.recordId, table.column, table.page] })],
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
    request: text('request', { mode: 'json' }).$type<object>(),
  },
  (table) => [index('jobs_of_clip').on(table.clipId)],
);

export const settings = sqliteTable('settings', {
  name: text('name').primaryKey(),
  value: text('value', { mode: 'json' }).notNull(),
});
