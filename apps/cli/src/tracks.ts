import { readFile, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import {
  FormatError,
  guessMapping,
  joinTracks,
  readTable,
  readTrackTable,
  smoothSamples,
  trackColumns,
  writeTracksCsv,
  writeTracksJson,
  type angleUnits,
  type lengthUnits,
  type NamedTrack,
  type TableMapping,
} from '@lurn/core';
import { readTracksJson } from '@lurn/model';
import { indexClip } from '@lurn/media';
import type { FrameRange } from './arguments.js';
import { withInput, type InputArguments } from './open-input.js';
import { UsageError } from './usage-error.js';

export interface TracksArguments extends InputArguments {
  in: string;
  out: string;
  columns?: TableMapping['columns'];
  units?: (typeof lengthUnits)[number];
  yUp?: boolean;
  firstFrame?: number;
  angles?: (typeof angleUnits)[number];
  only?: string[];
  range?: FrameRange;
  join?: string[];
  smooth?: number;
}

/** `frame=Nr,x=quer`: the heading, or the place counted from 1, of the column that holds each thing. */
export function parseColumns(text: string): Record<string, string> {
  const pairs = text.split(',').map((part) => part.split('='));
  for (const [name, from, ...rest] of pairs)
    if (!from || rest.length > 0 || !trackColumns.some((column) => column === name))
      throw new UsageError(
        `"${text}" does not say which column is which; write it as frame=Nr,x=Left,y=Top, with names among ${trackColumns.join(', ')}.`,
      );
  return Object.fromEntries(pairs) as Record<string, string>;
}

/**
 * Takes tracks from one form to another for a clip, with what is wrong told line by line; on the way pieces of one feature
 * are joined, paths smoothed, tracks and frames chosen. Returns what was left out, a sentence each.
 */
export async function convertTracks(
  path: string,
  args: Omit<TracksArguments, 'columns'> & { columns?: Record<string, string> },
): Promise<string[]> {
  const kind = extname(args.out).toLowerCase();
  if (kind !== '.json' && kind !== '.csv')
    throw new UsageError(`--out must end in .json or .csv, not "${args.out}".`);
  return withInput(path, args, async (clip) => {
    const { pts } = await indexClip(clip);
    const facts = { ...clip, frames: pts.length };
    const text = await readFile(args.in, 'utf8');
    const { tracks, errors } = read(text, args, facts);
    const joined = args.join ? joinedBy(tracks, args.join) : tracks;
    const kept = args.only ? joined.filter(({ name }) => args.only?.includes(name)) : joined;
    const missing = args.only?.find((name) => !joined.some((track) => track.name === name));
    if (missing !== undefined) throw new UsageError(`There is no track "${missing}" in ${args.in}.`);
    const { first, last } = args.range ?? { first: 0, last: facts.frames - 1 };
    for (const { samples } of kept) {
      if (args.smooth !== undefined)
        smoothSamples(samples, first, Math.min(last, facts.frames - 1), args.smooth);
      for (let k = 0; k < facts.frames; k++) if (k < first || k > last) samples.clear(k);
    }
    await writeFile(args.out, kind === '.json' ? writeTracksJson(facts, kept) : writeTracksCsv(kept, facts));
    console.log(`${kept.length === 1 ? 'One track' : `${kept.length} tracks`} written to ${args.out}.`);
    return errors.map(({ line, message }) => `Line ${line} was left out: ${message}`);
  });
}

function read(
  text: string,
  args: Omit<TracksArguments, 'columns'> & { columns?: Record<string, string> },
  clip: { width: number; height: number; frames: number },
) {
  try {
    if (/^\s*\{/.test(text)) return { tracks: readTracksJson(text, clip), errors: [] };
    const table = readTable(text);
    const guess = guessMapping(table);
    const columns = { ...guess.columns };
    for (const [column, from] of Object.entries(args.columns ?? {})) {
      const index = table.heading?.indexOf(from) ?? -1;
      const place = index >= 0 ? index : Number(from) - 1;
      if (!(place >= 0 && place < table.rows[0].length))
        throw new UsageError(`There is no column "${from}" in ${args.in}.`);
      columns[column as (typeof trackColumns)[number]] = place;
    }
    return readTrackTable(
      table,
      {
        columns,
        frameOffset: -(args.firstFrame ?? 0),
        units: args.units ?? guess.units,
        yUp: args.yUp ?? false,
        angles: args.angles ?? guess.angles,
      },
      clip,
    );
  } catch (error) {
    if (error instanceof FormatError) throw new Error(`${args.in}: ${error.message}`);
    throw error;
  }
}

/** The first of the named tracks with the others joined into it, beside those that are not named. */
function joinedBy(tracks: readonly NamedTrack[], names: readonly string[]): NamedTrack[] {
  const named = names.map((name) => {
    const track = tracks.find((one) => one.name === name);
    if (!track) throw new UsageError(`There is no track "${name}" to join.`);
    return track;
  });
  const [into, ...others] = named;
  for (const other of others) joinTracks(into.samples, other.samples);
  return tracks.filter((track) => !others.includes(track));
}
